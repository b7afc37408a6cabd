<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client, sentence } from '@/api/client'
import StateNote from '@/ui/StateNote.vue'

/** Where the code on a label leads: to its specimen. */
const props = defineProps<{ code: string }>()
const router = useRouter()
const text = ref('')

onMounted(async () => {
  try {
    const answer = await ask(
      client.GET('/api/specimens/by-code/{code}', { params: { path: { code: props.code } } }),
    )
    const scanned = answer
      ? null
      : await ask(client.GET('/api/remainders/{code}', { params: { path: { code: props.code } } }))
    if (scanned?.job_id) await router.replace(`/jobs/${scanned.job_id}`)
    else if (answer) await router.replace(`/bench/${answer.job_id}?specimen=${answer.specimen.id}`)
    else text.value = t('app.no-specimen-has-the-code-2', { code: props.code })
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
