<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { ask, client, type ConditioningView } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import StateNote from '@/components/StateNote.vue'
import { useNow } from '@/composables/clock'
import { useKeys } from '@/composables/keys'
import { useAct } from '@/composables/queries'
import { shortMoment, stretch } from '@/composables/words'

const now = useNow()
const { act, refused, busy } = useAct()
const query = useQuery({
  queryKey: ['conditioning'],
  queryFn: () => ask(client.GET('/api/conditioning')),
  refetchInterval: 5000,
})

/** "W1 to W6, F1 to F6": neighbouring numbers drawn together. */
function together(labels: string[]): string {
  const runs: string[][] = []
  for (const label of labels) {
    const last = runs[runs.length - 1]
    const before = last?.[last.length - 1]
    const follows =
      before !== undefined &&
      before[0] === label[0] &&
      Number(before.slice(1)) + 1 === Number(label.slice(1))
    if (last && follows) last.push(label)
    else runs.push([label])
  }
  return runs
    .map((run) => (run.length > 2 ? `${run[0]} to ${run[run.length - 1]}` : run.join(', ')))
    .join(', ')
}

type Group = { hung_at: string; ready_at: string }
function served(group: Group): number {
  const whole = Date.parse(group.ready_at) - Date.parse(group.hung_at)
  return Math.min((now.value - Date.parse(group.hung_at)) / whole, 1)
}
function left(group: Group): string {
  const rest = Date.parse(group.ready_at) - now.value
  return rest <= 0 ? 'served' : `${stretch(rest)} to go`
}

type Room = ConditioningView['enclosures'][number]
const awaited = (groups: Room['groups']) =>
  groups
    .filter((group) => group.awaited)
    .sort((one, other) => one.ready_at.localeCompare(other.ready_at))
const idle = (groups: Room['groups']) => groups.filter((group) => !group.awaited)

const waiting = computed(() => query.data.value?.waiting ?? [])
function roomFor(atmosphere: string) {
  return query.data.value?.enclosures.find((one) => one.atmosphere === atmosphere)
}

function hang(group: (typeof waiting.value)[number]) {
  const room = roomFor(group.atmosphere)
  if (!room) return
  void act(() =>
    ask(
      client.POST('/api/enclosures/{enclosure_id}/hang', {
        params: { path: { enclosure_id: room.id } },
        body: { specimen_ids: group.specimens.map((one) => Number(one.id)) },
      }),
    ),
  )
}
function takeOut(ids: number[]) {
  void act(() => ask(client.POST('/api/enclosures/take-out', { body: { specimen_ids: ids } })))
}

useKeys(() => [
  {
    key: 'Enter',
    says: 'hang the first that wait',
    act: () => waiting.value[0] && hang(waiting.value[0]),
  },
])
</script>

<template>
  <h1>Conditioning</h1>
  <FromRecord v-if="!query.data.value" :query="query" />
  <template v-else-if="query.data.value">
    <RefusalNote v-model="refused" />
    <section v-if="waiting.length" class="waiting">
      <h2>Waiting to be hung</h2>
      <div v-for="(group, place) in waiting" :key="group.job_id" class="group">
        <div>
          <router-link :to="`/jobs/${group.job_id}`" class="mono">{{
            group.job_number
          }}</router-link>
          {{ group.product }}
          <p class="mono quiet labels">
            {{ together(group.specimens.map((one) => String(one.label))) }}
          </p>
        </div>
        <button
          v-if="roomFor(group.atmosphere)"
          class="act"
          :class="{ main: place === 0 }"
          :disabled="busy"
          @click="hang(group)"
        >
          Hang {{ group.specimens.length }} in {{ roomFor(group.atmosphere)!.name }}
          <kbd v-if="place === 0">Enter</kbd>
        </button>
        <p v-else>No enclosure has the atmosphere {{ group.atmosphere }}.</p>
      </div>
    </section>

    <section v-for="room in query.data.value.enclosures" :key="room.id" class="room">
      <header>
        <h2>{{ room.name }}</h2>
        <p class="mono quiet">{{ room.set_point }}, {{ room.least_minutes / 60 }} h at least</p>
      </header>
      <div class="rod" aria-hidden="true" />
      <StateNote
        v-if="room.groups.length === 0"
        title="Nothing hangs here"
        says="Cut specimens are hung from this screen; their clock then runs on every screen."
      />
      <article v-for="group in awaited(room.groups)" :key="group.job_id + group.hung_at">
        <div class="hangers" aria-hidden="true">
          <i v-for="one in group.specimens" :key="one.specimen_id" />
        </div>
        <div class="facts">
          <p>
            <router-link :to="`/jobs/${group.job_id}`" class="mono">{{
              group.job_number
            }}</router-link>
            <strong>{{ group.product }}</strong>
          </p>
          <p class="mono quiet labels">
            {{ together(group.specimens.map((one) => String(one.label))) }}
          </p>
        </div>
        <div class="time">
          <p>
            <strong class="mono" :class="{ ready: group.ready }">{{ left(group) }}</strong>
            <span class="quiet"
              >hung {{ shortMoment(group.hung_at) }}, served {{ shortMoment(group.ready_at) }}</span
            >
          </p>
          <span class="tape" role="progressbar" :aria-valuenow="Math.round(served(group) * 100)">
            <span :style="{ width: `${served(group) * 100}%` }" />
          </span>
        </div>
        <div class="acts">
          <router-link v-if="group.ready" class="act" :to="`/bench/${group.job_id}`"
            >To the bench</router-link
          >
          <button
            class="act"
            :disabled="busy"
            @click="takeOut(group.specimens.map((one) => one.specimen_id))"
          >
            Take out
          </button>
        </div>
      </article>
      <div v-if="idle(room.groups).length" class="leftover">
        <p>
          <strong>Spares that nothing calls for any more</strong><br />
          <span v-for="group in idle(room.groups)" :key="group.job_id" class="quiet">
            <span class="mono">{{ group.job_number }}</span>
            {{ together(group.specimens.map((one) => one.label)) }}&ensp;
          </span>
        </p>
        <button
          class="act"
          :disabled="busy"
          @click="
            takeOut(
              idle(room.groups).flatMap((group) => group.specimens.map((one) => one.specimen_id)),
            )
          "
        >
          Take them out
        </button>
      </div>
      <p class="quiet small">
        Time counts by the clock, from the moment of hanging. Logs of the enclosure are not read
        yet.
      </p>
    </section>
  </template>
</template>

<style scoped>
h1 {
  margin-bottom: 14px;
}

.waiting {
  margin-bottom: 26px;
  padding: 14px 18px 8px;
  background: var(--sunk);
}

.group {
  display: flex;
  gap: 24px;
  align-items: center;
  justify-content: space-between;
  padding: 10px 0;
  border-top: 1px solid var(--hair);
}

.labels {
  font-size: 14px;
  overflow-wrap: anywhere;
}

.room header {
  display: flex;
  gap: 20px;
  align-items: baseline;
}

.rod {
  height: 5px;
  margin: 10px 0 0;
  border-radius: 3px;
  background: var(--ink);
}

article {
  display: grid;
  grid-template-columns: 132px minmax(200px, 1fr) minmax(250px, 1.1fr) auto;
  gap: 24px;
  align-items: center;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--hair);
}

.hangers {
  display: flex;
  gap: 3px;
  align-self: start;
  height: 68px;
}

.hangers i {
  width: 8px;
  height: 44px;
  margin-top: 12px;
  border: 1.3px solid var(--ink-2);
  background: var(--page);
  box-shadow: 0 -13px 0 -3.4px var(--ink-2);
}

.leftover {
  display: flex;
  gap: 24px;
  align-items: center;
  justify-content: space-between;
  padding: 14px 0;
  border-bottom: 1px solid var(--hair);
}

.facts p:first-child {
  display: flex;
  gap: 10px;
}

.time p {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  align-items: baseline;
}

.ready {
  color: var(--ochre);
}

.tape {
  display: block;
  height: 7px;
  margin-top: 5px;
  background: var(--sunk);
}

.tape span {
  display: block;
  height: 100%;
  background: repeating-linear-gradient(90deg, var(--tape) 0 9px, transparent 9px 10px);
}

.acts {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  min-width: 230px;
}

.room > .small {
  margin-top: 14px;
}

@media (max-width: 1100px) {
  article {
    grid-template-columns: minmax(180px, 1fr) minmax(200px, 1fr) auto;
    padding: 10px 0;
  }

  .hangers {
    display: none;
  }

  .acts {
    flex-direction: column;
    min-width: 130px;
  }
}
</style>
