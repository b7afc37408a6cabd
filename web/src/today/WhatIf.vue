<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, reactive, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { serverNow } from '@/app/clock'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { moment } from '@/ui/dates'
import { span } from '@/ui/phrases'
import DateField from '@/ui/DateField.vue'

/** What would be if: a station away, a job due sooner, one more job; nothing is changed. */
const props = defineProps<{ lanes: Schemas['LaneView'][] }>()
const { act, refused, busy } = useAct()
const answer = ref<Schemas['WhatIfView'] | null>(null)
const inADay = new Date(serverNow() + 86_400_000).toISOString()
const typed = reactive({
  station: null as string | null,
  until: inADay,
  due: null as number | null,
  dueAt: inADay,
  like: null as number | null,
})
const stations = computed(() =>
  props.lanes.filter((lane) => lane.kind === 'station').map((lane) => lane.name),
)
const jobs = computed(() => {
  const known = new Map<number, string>()
  for (const lane of props.lanes)
    for (const block of lane.blocks)
      if (block.job_id !== null) known.set(block.job_id, block.job_number ?? block.test)
  return [...known].sort((a, b) => a[0] - b[0]).map(([value, title]) => ({ value, title }))
})

async function think() {
  answer.value = null
  const body: Schemas['WhatIfRequest'] = {
    away:
      typed.station && typed.until
        ? [
            {
              station: typed.station,
              start: new Date(serverNow()).toISOString(),
              end: typed.until,
            },
          ]
        : [],
    due: typed.due && typed.dueAt ? [{ job_id: typed.due, due_at: typed.dueAt }] : [],
    one_more_like: typed.like,
  }
  await act(async () => {
    answer.value = await ask(client.POST('/api/schedule/what-if', { body }))
  })
}
</script>

<template>
  <details class="what-if">
    <summary>{{ t('today.what-if') }}</summary>
    <form @submit.prevent="think">
      <div class="pair">
        <v-select
          v-model="typed.station"
          clearable
          :items="stations"
          density="compact"
          :label="t('today.unavailable-station')"
        />
        <DateField
          v-model="typed.until"
          with-time
          density="compact"
          :label="t('today.unavailable-until')"
        />
      </div>
      <div class="pair">
        <v-select
          v-model="typed.due"
          clearable
          :items="jobs"
          density="compact"
          :label="t('today.job-with-an-earlier-due-date')"
        />
        <DateField v-model="typed.dueAt" with-time density="compact" :label="t('today.due-by')" />
      </div>
      <v-select
        v-model="typed.like"
        class="like"
        clearable
        :items="jobs"
        density="compact"
        :label="t('today.additional-job-like')"
      />
      <ActButton :disabled="busy">{{
        busy ? t('today.computing') : t('today.show-effect')
      }}</ActButton>
    </form>
    <RefusalNote v-model="refused" />
    <div v-if="answer" role="status" class="small">
      <p v-if="answer.added_ends">
        {{
          t('today.the-additional-job-is-complete-by', { added_ends: moment(answer.added_ends) })
        }}
      </p>
      <p v-for="line in [...answer.later, ...answer.sooner]" :key="line">{{ line }}</p>
      <p>
        {{ t('today.of-the-steps-stay-as-planned', { stayed_percent: answer.stayed_percent }) }}
      </p>
      <p v-for="row in answer.late" :key="row.id">
        {{ t('today.would-be-late', { test: row.test, span: span((row.minutes ?? 0) * 60_000) }) }}
      </p>
      <p v-for="line in answer.moved" :key="line" class="quiet">{{ line }}</p>
      <p class="quiet">{{ t('today.the-plan-was-not-changed') }}</p>
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

.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
  width: 100%;
}

.like {
  width: calc(50% - 5px);
}
</style>
