<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { JobView } from '@/api/client'

const props = defineProps<{ job: JobView }>()
const ORDER = ['received', 'cut', 'conditioned', 'tested', 'judged', 'released']

const steps = computed(() => {
  const { job } = props
  const here = ORDER.indexOf(job.stage)
  const called = job.tests
    .flatMap((test) => test.specimens)
    .filter((specimen) => specimen.called).length
  const path = [
    { text: t('jobs.received'), done: true },
    ...(job.is_cut ? [{ text: t('jobs.cut'), done: job.cut_at !== null }] : []),
    {
      text: t('jobs.conditioned-of', { conditioned: job.conditioned, called }),
      done: called > 0 && job.conditioned >= called,
    },
    {
      text: t('jobs.tested-of', { tested: job.tested, required: job.required }),
      done: job.tested >= job.required,
    },
    { text: t('jobs.reviewed'), done: here >= 5 },
    { text: t('jobs.released'), done: here >= 5 },
  ]
  // What was brought in was not cut or conditioned here: a later step that is done passes the earlier.
  const last = path.map((step) => step.done).lastIndexOf(true)
  return path.map((step, place) => ({ ...step, done: place <= last }))
})
const current = computed(() => steps.value.findIndex((step) => !step.done))
</script>

<template>
  <ol class="path">
    <li
      v-for="(step, place) in steps"
      :key="place"
      :class="{ done: step.done, here: place === current }"
    >
      <i />
      <span>{{ step.text }}</span>
    </li>
  </ol>
</template>

<style scoped>
.path {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 0;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  align-items: center;
  gap: 9px;
  color: var(--ink-2);
  font-weight: 500;
}

li + li::before {
  width: clamp(12px, 3vw, 48px);
  height: 2px;
  margin: 0 12px 0 14px;
  background: var(--ink-3);
  content: '';
}

i {
  width: 13px;
  height: 13px;
  border: 2px solid var(--ink-3);
  border-radius: 50%;
}

.done {
  color: var(--ink);
}

.done i {
  border-color: var(--ink);
  background: var(--ink);
}

.done + li::before {
  background: var(--ink);
}

.here {
  color: var(--blue);
  font-weight: 700;
}

.here i {
  border: 4px solid var(--blue);
}
</style>
