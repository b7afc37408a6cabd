<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { serverNow } from '@/app/clock'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { moment, momentFrom, stretch, written } from '@/ui/words'

/** What would be if: a station away, a job due sooner, one more job; nothing is changed. */
const props = defineProps<{ lanes: Schemas['LaneView'][] }>()
const { act, refused, busy } = useAct()
const answer = ref<Schemas['WhatIfView'] | null>(null)
const inADay = written(new Date(serverNow() + 86_400_000))
const typed = reactive({ station: '', until: inADay, due: '', dueAt: inADay, like: '' })
const stations = computed(() =>
  props.lanes.filter((lane) => lane.kind === 'station').map((lane) => lane.name),
)
const jobs = computed(() => {
  const known = new Map<number, string>()
  for (const lane of props.lanes)
    for (const block of lane.blocks)
      if (block.job_id !== null) known.set(block.job_id, block.job_number ?? block.test)
  return [...known].sort((a, b) => a[0] - b[0])
})
const until = computed(() => momentFrom(typed.until))
const dueAt = computed(() => momentFrom(typed.dueAt))

async function think() {
  answer.value = null
  const body: Schemas['WhatIfRequest'] = {
    away:
      typed.station && until.value
        ? [
            {
              station: typed.station,
              start: new Date(serverNow()).toISOString(),
              end: until.value.toISOString(),
            },
          ]
        : [],
    due:
      typed.due && dueAt.value
        ? [{ job_id: Number(typed.due), due_at: dueAt.value.toISOString() }]
        : [],
    one_more_like: typed.like ? Number(typed.like) : null,
  }
  await act(async () => {
    answer.value = await ask(client.POST('/api/today/what-if', { body }))
  })
}
</script>

<template>
  <details class="what-if">
    <summary>What if …</summary>
    <form @submit.prevent="think">
      <label>
        <select v-model="typed.station" aria-label="Unavailable station">
          <option value="">no station</option>
          <option v-for="name in stations" :key="name" :value="name">{{ name }}</option>
        </select>
        is unavailable until
        <input v-model="typed.until" class="mono" aria-label="Unavailable until" />
      </label>
      <label>
        <select v-model="typed.due" aria-label="Job with an earlier due date">
          <option value="">no job</option>
          <option v-for="[id, number] in jobs" :key="id" :value="String(id)">{{ number }}</option>
        </select>
        is due by <input v-model="typed.dueAt" class="mono" aria-label="Due by" />
      </label>
      <label>
        an additional job like
        <select v-model="typed.like" aria-label="Additional job like">
          <option value="">none</option>
          <option v-for="[id, number] in jobs" :key="id" :value="String(id)">{{ number }}</option>
        </select>
      </label>
      <ActButton :disabled="busy">{{ busy ? 'Computing …' : 'Show effect' }}</ActButton>
    </form>
    <RefusalNote v-model="refused" />
    <div v-if="answer" role="status" class="small">
      <p v-if="answer.added_ends">
        The additional job is complete by {{ moment(answer.added_ends) }}.
      </p>
      <p v-for="line in [...answer.later, ...answer.sooner]" :key="line">{{ line }}</p>
      <p>{{ answer.stayed_percent }} % of the steps stay as planned.</p>
      <p v-for="row in answer.late" :key="row.id">
        {{ row.test }} would be {{ stretch((row.minutes ?? 0) * 60_000) }} late
      </p>
      <p v-for="line in answer.moved" :key="line" class="quiet">{{ line }}</p>
      <p class="quiet">The plan was not changed.</p>
    </div>
  </details>
</template>

<style scoped>
.what-if {
  margin-top: 14px;
  padding-top: 10px;
  border-top: 1px solid var(--hair);
}

summary {
  min-height: 30px;
  cursor: pointer;
}

form {
  display: grid;
  gap: 8px;
  justify-items: start;
  margin: 6px 0;
}

select,
input {
  min-height: 36px;
  padding: 0 8px;
  border: 1px solid var(--hair);
  border-radius: 6px;
  background: var(--page);
  color: var(--ink);
  font: inherit;
}

input {
  width: 190px;
}
</style>
