<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client, sentence } from '@/api/client'
import StateNote from '@/components/StateNote.vue'

/** Where the code on a label leads: to its specimen. */
const props = defineProps<{ code: string }>()
const router = useRouter()
const says = ref('')

onMounted(async () => {
  try {
    const found = await ask(
      client.GET('/api/specimens/by-code/{code}', { params: { path: { code: props.code } } }),
    )
    if (found) await router.replace(`/bench/${found.job_id}?specimen=${found.specimen.id}`)
    else says.value = `No specimen has the code ${props.code}.`
  } catch (error) {
    says.value = sentence(error)
  }
})
</script>

<template>
  <h1 class="mono">{{ code }}</h1>
  <StateNote v-if="says" title="Not found" :says="says">
    <router-link class="act" to="/jobs">All jobs</router-link>
  </StateNote>
  <p v-else class="quiet">Looking for it …</p>
</template>
