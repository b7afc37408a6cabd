<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { serverNow } from '@/app/clock'
import WeekDays from '@/people/WeekDays.vue'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayFrom, dayOf } from '@/ui/words'

/** When somebody is in: the hours of the house or their own, and the days they are away. */
const props = defineProps<{ person: Schemas['PersonView'] }>()
const { act, refused, busy } = useAct()
const HOUSE = { days: [0, 1, 2, 3, 4], start: '08:00', end: '16:30' }
const today = dayOf(new Date(serverNow()).toISOString())
const own = ref(false)
const typed = reactive({ days: [...HOUSE.days], start: HOUSE.start, end: HOUSE.end })
const away = ref<Schemas['AwayRow'][]>([])
const next = reactive({ since: '', until: '' })
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
const since = computed(() => dayFrom(next.since))
const until = computed(() => (next.until.trim() ? dayFrom(next.until) : since.value))
const isOdd = computed(() => next.since.trim() !== '' && !(since.value && until.value))
async function keep() {
  const rows =
    since.value && until.value
      ? [...away.value, { since: since.value, until: until.value, why: 'away' }]
      : away.value
  const done = await act(() =>
    ask(
      client.PUT('/api/people/{person_id}/hours', {
        params: { path: { person_id: props.person.id } },
        body: { hours: own.value ? { ...typed, days: [...typed.days].sort() } : null, away: rows },
      }),
    ),
  )
  if (done) Object.assign(next, { since: '', until: '' })
}
</script>

<template>
  <form @submit.prevent="keep">
    <h3>Working hours</h3>
    <label><input v-model="own" type="checkbox" /> own working hours</label>
    <p v-if="own" class="days">
      <WeekDays v-model="typed.days" />
      <label>from <input v-model="typed.start" class="mono" size="5" placeholder="08:00" /></label>
      <label>until <input v-model="typed.end" class="mono" size="5" placeholder="16:30" /></label>
    </p>
    <p v-for="(row, place) in away" :key="place" class="small">
      away {{ dayOf(row.since) }} to {{ dayOf(row.until) }}
      <button type="button" class="plain link" @click="away.splice(place, 1)">remove</button>
    </p>
    <p class="days">
      <label>away from <input v-model="next.since" size="12" :placeholder="today" /></label>
      <label>to <input v-model="next.until" size="12" :placeholder="today" /></label>
      <span v-if="isOdd" class="small odd">enter a day, such as {{ today }}</span>
    </p>
    <RefusalNote v-model="refused" />
    <ActButton :disabled="busy || isOdd">Save hours</ActButton>
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
