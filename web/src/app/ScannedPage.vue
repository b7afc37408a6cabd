<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { sentence } from '@/api/client'
import { addressOf, exactly, searchFor } from '@/app/search'
import StateNote from '@/ui/StateNote.vue'

/** Where the code on a label leads: to its specimen, or its job. */
const props = defineProps<{ code: string }>()
const router = useRouter()
const text = ref('')

onMounted(async () => {
  try {
    const hit = exactly(await searchFor(props.code), props.code)
    if (hit) await router.replace(addressOf(hit))
    else text.value = t('app.nothing-has-the-code', { requested: props.code })
  } catch (error) {
    text.value = sentence(error)
  }
})
</script>

<template>
  <h1 class="mono">{{ code }}</h1>
  <StateNote v-if="text" :title="t('app.not-found')" :text="text">
    <ActButton to="/jobs">{{ t('app.all-jobs') }}</ActButton>
  </StateNote>
  <p v-else class="quiet">{{ t('app.searching') }}</p>
</template>
