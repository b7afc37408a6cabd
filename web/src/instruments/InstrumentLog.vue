<script setup lang="ts">
import { t } from '@/ui/words'
import { ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { moment } from '@/ui/dates'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraft } from '@/ui/drafts'

/** What happened to an instrument, and one more line of it. */
const props = defineProps<{
  serial: string
  events: Schemas['InstrumentEventView'][]
  mayWrite: boolean
}>()
const { act, refused, busy } = useAct()
const KINDS: [Schemas['LogRequest']['kind'], string][] = [
  ['cleaned', 'cleaned'],
  ['heater-changed', 'heater changed'],
  ['tuned', 'tuned'],
  ['repaired', 'repaired'],
  ['note', 'note'],
]
const kind = ref<Schemas['LogRequest']['kind']>('cleaned')
const text = ref('')
const draft = useDraft(
  () => `instrument-log/${props.serial}`,
  () => ({ kind: kind.value, text: text.value }),
  (kept) => {
    kind.value = kept.kind
    text.value = kept.text
  },
)
draft.begin()

async function write() {
  const params = { path: { serial: props.serial } }
  const body = { kind: kind.value, text: text.value }
  await act(async () => {
    await ask(client.POST('/api/instruments/{serial}/log', { params, body }))
    text.value = ''
    draft.saved()
  })
}
</script>

<template>
  <section>
    <h3>{{ t('instruments.log') }}</h3>
    <form v-if="mayWrite" @submit.prevent="write">
      <v-select
        v-model="kind"
        :label="t('instruments.work-done')"
        :items="KINDS.map(([value, title]) => ({ value, title }))"
      />
      <v-text-field
        v-model="text"
        :label="t('instruments.work-and-condition-found')"
        maxlength="300"
      />
      <ActButton :disabled="busy || !text.trim()">{{ t('instruments.add-entry') }}</ActButton>
    </form>
    <DraftNote :draft="draft" />
    <RefusalNote v-model="refused" />
    <ol>
      <li v-for="event in events" :key="event.id">
        <span class="mono small quiet">{{ moment(event.at) }}</span>
        <span
          ><b>{{ event.kind.replace(/-/g, ' ') }}</b
          >: {{ event.text }}</span
        >
        <span class="small quiet">{{ event.by }}</span>
      </li>
    </ol>
    <p v-if="!events.length" class="quiet">{{ t('instruments.no-entries-yet') }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}

form {
  display: flex;
  gap: 12px;
  align-items: center;
}

select {
  min-height: var(--touch);
  border: 0;
  border-bottom: 1.5px dotted var(--ink-3);
  background: transparent;
  color: var(--blue);
  font: inherit;
  appearance: auto;
}

ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) auto;
  gap: 14px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--hair);
}
</style>
