<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import WeekDays from '@/people/WeekDays.vue'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/dates'
import DateField from '@/ui/DateField.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraft } from '@/ui/drafts'

/** When somebody is in: the hours of the laboratory or their own, and the days they are away. */
const props = defineProps<{ person: Schemas['PersonView'] }>()
const { act, refused, busy } = useAct()
const HOUSE = { days: [0, 1, 2, 3, 4], start: '08:00', end: '16:30' }
const own = ref(false)
const typed = reactive({ days: [...HOUSE.days], start: HOUSE.start, end: HOUSE.end })
const away = ref<Schemas['AwayRow'][]>([])
const next = reactive<{ since: string | null; until: string | null }>({ since: '', until: '' })
watch(
  () => props.person,
  ({ hours, away: gone }) => {
    own.value = hours !== null
    const { days, start, end } = hours ?? HOUSE
    Object.assign(typed, {
      days: [...(days ?? HOUSE.days)],
      start: (start ?? HOUSE.start).slice(0, 5),
      end: (end ?? HOUSE.end).slice(0, 5),
    })
    away.value = [...gone]
  },
  { immediate: true },
)
const draft = useDraft(
  () => `hours/${props.person.id}`,
  () => ({ own: own.value, typed, away: away.value, next }),
  (kept) => {
    own.value = kept.own
    Object.assign(typed, kept.typed)
    away.value = kept.away
    Object.assign(next, kept.next)
  },
)
watch(() => props.person.id, draft.begin, { immediate: true })
const isOdd = computed(() => next.since === null || next.until === null)
async function keep() {
  const { since, until } = next
  const rows = since ? [...away.value, { since, until: until || since, why: 'away' }] : away.value
  const done = await act(() =>
    ask(
      client.PUT('/api/people/{person_id}/hours', {
        params: { path: { person_id: props.person.id } },
        body: { hours: own.value ? { ...typed, days: [...typed.days].sort() } : null, away: rows },
      }),
    ),
  )
  if (!done) return
  Object.assign(next, { since: '', until: '' })
  draft.saved()
}
</script>

<template>
  <form @submit.prevent="keep">
    <h3>{{ t('people.working-hours') }}</h3>
    <v-checkbox v-model="own" :label="t('people.own-working-hours')" />
    <p v-if="own" class="days">
      <WeekDays v-model="typed.days" />
      <v-text-field
        v-model="typed.start"
        class="mono short"
        density="compact"
        :label="t('people.from')"
      />
      <v-text-field
        v-model="typed.end"
        class="mono short"
        density="compact"
        :label="t('people.until-2')"
      />
    </p>
    <p v-for="(row, place) in away" :key="place" class="small">
      {{ t('people.away-to', { since: dayOf(row.since), until: dayOf(row.until) }) }}
      <ActButton type="button" kind="link" @click="away.splice(place, 1)">{{
        t('people.remove')
      }}</ActButton>
    </p>
    <p class="days">
      <DateField v-model="next.since" :label="t('people.away-from')" />
      <DateField v-model="next.until" :label="t('people.to')" />
    </p>
    <DraftNote :draft="draft" />
    <RefusalNote v-model="refused" />
    <ActButton :disabled="busy || isOdd">{{ t('people.save-hours') }}</ActButton>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 8px;
  justify-items: start;
}

.days {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
}

.odd {
  color: var(--brick);
}

input:not([type='checkbox']) {
  min-height: 32px;
  padding: 0 6px;
  color: var(--ink);
  background: var(--page);
  border: 1.5px solid var(--ink-3);
}
</style>
