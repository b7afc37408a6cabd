<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { upload } from '@/api/upload'
import LogCurve from '@/conditioning/LogCurve.vue'
import type { Bar } from '@/conditioning/groups'
import { fixed } from '@/ui/numbers'
import { shortMoment } from '@/ui/dates'
import ActButton from '@/ui/ActButton.vue'
import FileButton from '@/ui/FileButton.vue'
import FromRecord from '@/ui/FromRecord.vue'

/** What an enclosure is kept at, and how it was: its log as a curve, its excursions in words. */
const props = defineProps<{ room: Schemas['EnclosureView']; periods: Bar[]; now: number }>()
const emit = defineEmits<{
  change: []
  bring: [work: () => Promise<unknown>]
}>()
const SPANS: [number, string][] = [
  [24, '24 h'],
  [48, '2 days'],
  [168, '7 days'],
]
const span = ref(24)
const said = ref<string[]>([])
watch(
  () => props.room.id,
  () => (said.value = []),
)
const log = useQuery({
  queryKey: ['log', computed(() => props.room.id), span],
  queryFn: () =>
    ask(
      client.GET('/api/enclosures/{enclosure_id}/log', {
        params: { path: { enclosure_id: props.room.id }, query: { hours: span.value } },
      }),
    ),
  enabled: computed(() => props.room.logged),
})
const curve = computed(() => (log.data.value ?? null) as Schemas['LogView'] | null)
const bad = computed(() => [...(log.data.value?.excursions ?? []), ...(log.data.value?.gaps ?? [])])

function bringIn(files: File[]) {
  const id = props.room.id
  emit('bring', async () => {
    const taken = await upload<Schemas['TakenLogView']>(`/api/enclosures/${id}/log`, {
      file: files[0]!,
      offset_minutes: String(-new Date().getTimezoneOffset()),
    })
    await log.refetch()
    said.value = [
      ...taken.said,
      t('conditioning.new-readings-imported-already-known', {
        added: taken.added,
        known: taken.known,
      }),
    ]
  })
}
</script>

<template>
  <header>
    <div>
      <h2>{{ room.name }}</h2>
      <p class="mono quiet">
        {{ room.set_point }}
        <ActButton kind="link" @click="$emit('change')">{{ t('conditioning.change') }}</ActButton>
      </p>
    </div>
    <div class="row">
      <div v-if="room.logged" class="spans">
        <ActButton
          v-for="[hours, text] in SPANS"
          :key="hours"
          kind="plain"
          :class="{ on: span === hours }"
          @click="span = hours"
        >
          {{ text }}
        </ActButton>
      </div>
      <FileButton
        kind="link"
        :label="t('conditioning.log-as-csv')"
        accept=".csv,.txt,.xlsx"
        @chosen="bringIn"
        >{{ t('conditioning.import-log') }}</FileButton
      >
      <a
        v-if="room.logged"
        class="small"
        :href="`/api/enclosures/${room.id}/log.csv?hours=${span}`"
        >{{ t('conditioning.csv') }}</a
      >
    </div>
  </header>
  <p v-if="room.cautions.length" class="caution small">{{ room.cautions.join(' ') }}</p>
  <p v-if="room.line_message" class="bad" role="status">
    {{ t('conditioning.retrying-every-few-seconds', { line_message: room.line_message }) }}
  </p>
  <p v-for="line in said" :key="line" class="small said">{{ line }}</p>
  <FromRecord v-if="room.logged && !curve" :query="log" inline />
  <LogCurve v-if="room.logged && curve" :log="curve" :room="room" :periods="periods" :now="now" />
  <p v-if="!room.logged" class="quiet nolog">
    {{ t('conditioning.this-room-has-no-log-time-counts-by-the') }}
  </p>
  <p v-if="bad.length" class="bad small">
    <template v-for="(stretchOut, place) in bad.slice(-3)" :key="place"
      >{{ shortMoment(stretchOut.start) }}: {{ stretchOut.text }},
      {{ fixed(stretchOut.minutes, 0) }} min{{
        stretchOut.end ? '' : t('conditioning.still-open')
      }}.&ensp;</template
    >
  </p>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  align-items: start;
  justify-content: space-between;
}

.spans {
  display: flex;
}

.spans button {
  min-height: 36px;
  padding: 0 11px;
  border: 1px solid var(--ink-3);
  font-size: 14px;
}

.spans button + button {
  border-left: 0;
}

.spans .on {
  background: var(--ink);
  color: var(--page);
}

.said {
  padding-left: 12px;
  border-left: 4px solid var(--ochre);
}

.caution {
  padding-left: 12px;
  border-left: 4px solid var(--brick);
}

.nolog {
  max-width: 560px;
  padding: 10px 0;
}
</style>
