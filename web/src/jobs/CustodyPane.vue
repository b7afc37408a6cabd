<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import { figureFrom, fixed } from '@/ui/numbers'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf, shortMoment } from '@/ui/dates'
import DateField from '@/ui/DateField.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraftOf } from '@/ui/drafts'
import FromRecord from '@/ui/FromRecord.vue'

/** Where the sample is, what remains of it, what became of it, and who is still to be told. */
const props = defineProps<{ jobId: number; mayWrite: boolean }>()
const { act, refused, busy } = useAct()
const custody = useQuery({
  queryKey: ['custody', computed(() => props.jobId)],
  queryFn: () =>
    ask(client.GET('/api/jobs/{job_id}/custody', { params: { path: { job_id: props.jobId } } })),
})
type Kind = Schemas['CustodyRequest']['kind']
const KINDS: { value: Kind; title: string; place: string }[] = [
  { value: 'kept', title: 'remainder stored', place: t('jobs.location') },
  { value: 'split', title: 'part split off', place: t('jobs.to-where') },
  { value: 'returned', title: 'returned to the client', place: t('jobs.to-whom') },
  { value: 'disposed', title: 'disposed of', place: '' },
  { value: 'told', title: 'person notified', place: t('jobs.person') },
  { value: 'collected', title: 'report collected', place: t('jobs.to-whom') },
]
const typed = reactive<{
  kind: Kind
  location: string
  amount: string
  until: string | null
  remark: string
}>({ kind: 'kept', location: '', amount: '', until: '', remark: '' })
const draft = useDraftOf(() => `custody/${props.jobId}`, typed)
draft.begin()
const kind = computed(() => KINDS.find((each) => each.value === typed.kind)!)

async function save() {
  const body: Schemas['CustodyRequest'] = {
    kind: typed.kind,
    location: typed.location,
    amount: typed.amount.trim() ? figureFrom(typed.amount) : null,
    until: typed.kind === 'kept' ? typed.until || null : null,
    remark: typed.remark,
  }
  const params = { path: { job_id: props.jobId } }
  await act(async () => {
    await ask(client.POST('/api/jobs/{job_id}/custody', { params, body }))
    Object.assign(typed, { location: '', amount: '', until: '', remark: '' })
    draft.saved()
  })
}
</script>

<template>
  <FromRecord v-if="!custody.data.value" :query="custody" inline />
  <section v-else>
    <h3>{{ t('jobs.sample') }}</h3>
    <p v-if="custody.data.value.tell" class="flag" role="alert">{{ custody.data.value.tell }}.</p>
    <p class="small">
      <b class="mono">{{ custody.data.value.code }}</b>
      <template v-if="custody.data.value.is_here && custody.data.value.remains !== null">{{
        t('jobs.left', {
          remains: fixed(custody.data.value.remains, 0),
          unit: custody.data.value.unit,
        })
      }}</template>
      <template v-if="custody.data.value.location">{{
        t('jobs.at', { location: custody.data.value.location })
      }}</template>
      <i18n-t v-if="custody.data.value.kept_until" keypath="jobs.until" scope="global"
        ><template #day
          ><b :class="{ late: custody.data.value.overdue }">{{
            dayOf(custody.data.value.kept_until)
          }}</b></template
        ></i18n-t
      >
    </p>
    <ul class="small quiet">
      <li v-for="line in custody.data.value.lines" :key="line.at">
        {{ shortMoment(line.at) }} {{ line.by }}: {{ line.text }}
      </li>
    </ul>
    <details v-if="mayWrite">
      <summary class="small">{{ t('jobs.record-disposition') }}</summary>
      <form @submit.prevent="save">
        <v-select v-model="typed.kind" :items="KINDS" :label="t('jobs.event')" />
        <v-text-field v-if="kind.place" v-model="typed.location" :label="kind.place" />
        <v-text-field
          v-if="['split', 'kept'].includes(typed.kind)"
          v-model="typed.amount"
          class="mono"
          :label="t('jobs.amount')"
          :suffix="custody.data.value.unit"
        />
        <DateField
          v-if="typed.kind === 'kept'"
          v-model="typed.until"
          with-time
          :label="t('jobs.until-2')"
        />
        <v-text-field v-model="typed.remark" :label="t('jobs.remarks')" />
        <ActButton :disabled="busy || typed.until === null">{{ t('jobs.record') }}</ActButton>
      </form>
      <DraftNote :draft="draft" />
      <RefusalNote v-model="refused" />
    </details>
  </section>
</template>

<style scoped>
section {
  margin-top: 18px;
}

ul {
  margin: 4px 0;
  padding: 0;
  list-style: none;
}

summary {
  min-height: 28px;
  color: var(--ink-2);
  cursor: pointer;
}

form {
  display: grid;
  gap: 8px;
  max-width: 420px;
  justify-items: stretch;
  align-content: start;
}

.late {
  color: var(--brick);
}
</style>
