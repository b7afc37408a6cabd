<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { ask, asProblem, client, sentence, type Schemas } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import HangingGroup from '@/components/HangingGroup.vue'
import LogCurve from '@/components/LogCurve.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import SetPointLeaf from '@/components/SetPointLeaf.vue'
import StateNote from '@/components/StateNote.vue'
import { useNow } from '@/composables/clock'
import { useKeys } from '@/composables/keys'
import { useAct } from '@/composables/queries'
import { useScans } from '@/composables/scanning'
import { shortMoment, stretch, together } from '@/composables/words'

type Room = Schemas['EnclosureView']
type Waiting = Schemas['WaitingGroup']

const SPANS: [number, string][] = [
  [24, '24 h'],
  [48, '2 days'],
  [168, '7 days'],
]
const FAULTS: [string, string][] = [
  ['none', 'as it should'],
  ['warm', 'too warm'],
  ['silent', 'its logger falls silent'],
  ['rubbish', 'its logger sends rubbish'],
]
const now = useNow()
const { act, refused, busy } = useAct()
const query = useQuery({
  queryKey: ['conditioning'],
  queryFn: () => ask(client.GET('/api/conditioning')),
  refetchInterval: 6000,
})
const rooms = computed(() => query.data.value?.enclosures ?? [])
const waiting = computed(() => query.data.value?.waiting ?? [])
const picked = ref<number | null>(null)
const room = computed<Room | null>(
  () =>
    rooms.value.find((one) => one.id === picked.value) ??
    rooms.value.find((one) => awaited(one).length) ??
    rooms.value[0] ??
    null,
)
const span = ref(24)
const setting = ref(false)
const file = ref<HTMLInputElement | null>(null)
const said = ref<string[]>([])
watch(
  () => room.value?.id,
  () => (said.value = []),
)

const log = useQuery({
  queryKey: ['log', computed(() => room.value?.id), span],
  queryFn: () =>
    ask(
      client.GET('/api/enclosures/{enclosure_id}/log', {
        params: { path: { enclosure_id: room.value!.id }, query: { hours: span.value } },
      }),
    ),
  enabled: computed(() => room.value?.logged === true),
  refetchInterval: 15_000,
})

const curve = computed(() => (log.data.value ?? null) as Schemas['LogView'] | null)
const awaited = (one: Room) => one.groups.filter((group) => group.awaited)
const idle = (one: Room) => one.groups.filter((group) => !group.awaited)
const hanging = (one: Room) => one.groups.reduce((sum, group) => sum + group.specimens.length, 0)
/** What hangs together, job by job: one bar each. */
const stays = computed(() => {
  const found = new Map<
    string,
    { key: string; name: string; count: number; from: string; to: string | null; ready: boolean }
  >()
  for (const group of room.value ? awaited(room.value) : []) {
    const key = `${group.job_id} ${group.hung_at} ${group.runs_out_at}`
    const one = found.get(key) ?? {
      key,
      name: '',
      count: 0,
      from: group.hung_at,
      to: group.runs_out_at,
      ready: group.ready,
    }
    one.count += group.specimens.length
    one.name = `${group.job_number} ${group.product}, ${one.count}`
    found.set(key, one)
  }
  return [...found.values()]
})
const bad = computed(() => [...(log.data.value?.excursions ?? []), ...(log.data.value?.gaps ?? [])])
const nameOf = (id: number) => rooms.value.find((one) => one.id === id)?.name ?? ''
const drier = computed(() => rooms.value.find((one) => one.atmosphere === 'pre-conditioning'))

const tray = ref<{ id: number; code: string; label: string }[]>([])
const typed = ref('')
const scanSays = ref('')
async function scan(code: string) {
  scanSays.value = ''
  const wanted = code.trim().split('/').pop()!
  if (!wanted || tray.value.some((one) => one.code === wanted.toUpperCase())) return
  try {
    const found = await ask(
      client.GET('/api/specimens/by-code/{code}', { params: { path: { code: wanted } } }),
    )
    if (!found) scanSays.value = `No specimen has the code ${wanted}.`
    else
      tray.value.push({
        id: found.specimen.id,
        code: found.specimen.code,
        label: found.specimen.label,
      })
  } catch (error) {
    scanSays.value = sentence(error)
  }
}
useScans((code) => void scan(code))
function type() {
  void scan(typed.value)
  typed.value = ''
}

async function hang(roomId: number, ids: number[]) {
  const done = await act(() =>
    ask(
      client.POST('/api/enclosures/{enclosure_id}/hang', {
        params: { path: { enclosure_id: roomId } },
        body: { specimen_ids: ids },
      }),
    ),
  )
  if (done) {
    picked.value = roomId
    tray.value = []
  }
}
const hangGroup = (group: Waiting) =>
  hang(
    group.enclosures[0]!,
    group.specimens.map((one) => one.id),
  )
async function takeOut(ids: number[]) {
  const done = await act(() =>
    ask(client.POST('/api/enclosures/take-out', { body: { specimen_ids: ids } })),
  )
  if (done) tray.value = []
}
const weigh = (specimen_id: number, mass_g: number) =>
  act(() =>
    ask(
      client.POST('/api/specimens/{specimen_id}/weighings', {
        params: { path: { specimen_id } },
        body: { mass_g },
      }),
    ),
  )
const setPoint = (asked: Schemas['SetPointAsked']) =>
  act(() =>
    ask(
      client.PUT('/api/enclosures/{enclosure_id}/set-point', {
        params: { path: { enclosure_id: room.value!.id } },
        body: asked,
      }),
    ),
  )
const pretend = (fault: string) =>
  act(() =>
    ask(
      client.POST('/api/enclosures/{enclosure_id}/pretend', {
        params: { path: { enclosure_id: room.value!.id } },
        body: { fault },
      }),
    ),
  )
const readNow = () => act(() => ask(client.POST('/api/enclosures/read-loggers')))

async function bringIn(event: Event) {
  const field = event.target as HTMLInputElement
  const chosen = field.files?.[0]
  if (!chosen || !room.value) return
  const id = room.value.id
  await act(async () => {
    const body = new FormData()
    body.append('file', chosen)
    body.append('offset_minutes', String(-new Date().getTimezoneOffset()))
    const answer = await fetch(`/api/enclosures/${id}/log`, { method: 'POST', body })
    const told = await answer.json().catch(() => null)
    if (!answer.ok) throw asProblem(answer.status, told)
    const taken = told as Schemas['TakenLogView']
    said.value = [
      ...taken.said,
      `${taken.added} readings were new, ${taken.known} were there already`,
    ]
  })
  field.value = ''
}

useKeys(() => [
  {
    key: 'Enter',
    says: 'hang the first that wait',
    act: () => waiting.value[0]?.enclosures.length && void hangGroup(waiting.value[0]),
  },
])
</script>

<template>
  <FromRecord v-if="!query.data.value" :query="query" />
  <template v-else>
    <header class="top">
      <h1>Conditioning</h1>
      <form class="scan" @submit.prevent="type">
        <input
          v-model="typed"
          class="mono"
          placeholder="scan or type codes"
          aria-label="Scan or type the codes of specimens"
          autocomplete="off"
        />
      </form>
    </header>
    <RefusalNote v-model="refused" />
    <div v-if="tray.length || scanSays" class="tray">
      <p v-if="scanSays" role="alert" class="bad">{{ scanSays }}</p>
      <template v-if="tray.length">
        <p>
          <b>{{ tray.length }} in hand:</b>
          <span class="mono">{{ tray.map((one) => one.code).join(', ') }}</span>
          <button class="plain link" @click="tray = []">put down</button>
        </p>
        <div class="row">
          <button
            v-if="room"
            class="act main"
            :disabled="busy"
            @click="
              hang(
                room.id,
                tray.map((one) => one.id),
              )
            "
          >
            Hang {{ tray.length }} in {{ room.name }}
          </button>
          <button class="act" :disabled="busy" @click="takeOut(tray.map((one) => one.id))">
            Take {{ tray.length }} out
          </button>
        </div>
      </template>
    </div>

    <section v-if="waiting.length" class="waiting">
      <div v-for="(group, place) in waiting" :key="`${group.job_id} ${group.test}`" class="group">
        <div>
          <p class="what">
            <router-link :to="`/jobs/${group.job_id}`" class="mono">{{
              group.job_number
            }}</router-link>
            <strong>{{ group.test }}</strong>
            <span class="quiet">{{ group.product }}</span>
          </p>
          <p class="mono quiet small">
            {{ together(group.specimens.map((one) => one.label)) }}
          </p>
          <p v-if="group.damp" class="small bad">
            The sample came damp: dry it first, so that it comes to its moisture from the dry side.
          </p>
        </div>
        <p v-if="group.latest_at" class="latest">
          <b class="mono" :class="{ bad: Date.parse(group.latest_at) < now }">{{
            Date.parse(group.latest_at) < now
              ? 'overrun'
              : stretch(Date.parse(group.latest_at) - now)
          }}</b>
          <span class="quiet small"
            >{{ group.wanted ? `into the ${group.wanted.toLowerCase()}` : 'to be tested' }} by
            {{ shortMoment(group.latest_at) }}</span
          >
        </p>
        <div class="row">
          <button
            v-if="group.damp && drier"
            class="act"
            :disabled="busy"
            @click="
              hang(
                drier.id,
                group.specimens.map((one) => one.id),
              )
            "
          >
            Pre-condition first
          </button>
          <button
            v-if="group.enclosures.length"
            class="act"
            :class="{ main: place === 0 }"
            :disabled="busy"
            @click="hangGroup(group)"
          >
            Hang {{ group.specimens.length }} in {{ nameOf(group.enclosures[0]!) }}
            <kbd v-if="place === 0">Enter</kbd>
          </button>
          <router-link v-else-if="!group.atmosphere" class="act" :to="`/bench/${group.job_id}`"
            >To the bench</router-link
          >
          <p v-else class="bad small">No enclosure is kept as {{ group.wanted.toLowerCase() }}.</p>
        </div>
      </div>
    </section>

    <div class="rooms">
      <ul>
        <li v-for="one in rooms" :key="one.id">
          <button
            class="plain"
            :class="{ open: room?.id === one.id }"
            :aria-pressed="room?.id === one.id"
            @click="picked = one.id"
          >
            <span class="name">{{ one.name }}</span>
            <span class="mono count" :class="{ some: hanging(one) }">{{ hanging(one) || '' }}</span>
            <span class="mono small" :class="one.in_tolerance === false ? 'bad' : 'quiet'">{{
              one.line_says ? 'logger silent' : one.reads || 'no log kept'
            }}</span>
          </button>
        </li>
      </ul>
      <section v-if="room" class="room">
        <header>
          <div>
            <h2>{{ room.name }}</h2>
            <p class="mono quiet">
              {{ room.set_point }}
              <button class="plain link" @click="setting = true">change</button>
            </p>
          </div>
          <div class="row">
            <div v-if="room.logged" class="spans">
              <button
                v-for="[hours, words] in SPANS"
                :key="hours"
                class="plain"
                :class="{ on: span === hours }"
                @click="span = hours"
              >
                {{ words }}
              </button>
            </div>
            <button class="plain link" @click="file?.click()">bring a log in</button>
            <a
              v-if="room.logged"
              class="small"
              :href="`/api/enclosures/${room.id}/log.csv?hours=${span}`"
              >CSV</a
            >
            <input
              ref="file"
              type="file"
              accept=".csv,.txt"
              hidden
              aria-label="Log of the enclosure as CSV"
              @change="bringIn"
            />
          </div>
        </header>
        <p v-if="room.cautions.length" class="caution small">{{ room.cautions.join(' ') }}</p>
        <p v-if="room.line_says" class="bad" role="status">
          {{ room.line_says }}; asked again every few seconds.
        </p>
        <p v-for="line in said" :key="line" class="small said">{{ line }}</p>
        <LogCurve v-if="room.logged && curve" :log="curve" :room="room" :stays="stays" :now="now" />
        <p v-else-if="!room.logged" class="quiet nolog">
          No log is kept here: time counts by the clock, and the report says so. Bring a log in as
          CSV with time, temperature_c and humidity_percent.
        </p>
        <p v-if="bad.length" class="bad small">
          <template v-for="(one, place) in bad.slice(-3)" :key="place"
            >{{ shortMoment(one.start) }}: {{ one.words }}, {{ one.minutes.toFixed(0) }} min{{
              one.end ? '' : ', and still'
            }}.&ensp;</template
          >
        </p>
        <div class="rod" aria-hidden="true" />
        <StateNote
          v-if="room.groups.length === 0"
          title="Nothing hangs here"
          says="Scan specimens, or hang those that wait above; their clock then runs on every screen."
        />
        <HangingGroup
          v-for="group in awaited(room)"
          :key="`${group.job_id} ${group.test} ${group.hung_at}`"
          :group="group"
          :policy="query.data.value.policy"
          :now="now"
          :busy="busy"
          :logged="room.logged"
          @out="takeOut"
          @weigh="weigh"
        />
        <div v-if="idle(room).length" class="leftover">
          <p>
            <strong>Spares that nothing calls for any more</strong><br />
            <span v-for="group in idle(room)" :key="group.job_id" class="quiet small">
              <span class="mono">{{ group.job_number }}</span>
              {{ together(group.specimens.map((one) => one.label)) }}&ensp;
            </span>
          </p>
          <button
            class="act"
            :disabled="busy"
            @click="
              takeOut(idle(room).flatMap((group) => group.specimens.map((one) => one.specimen_id)))
            "
          >
            Take them out
          </button>
        </div>
        <p v-if="room.simulated" class="small quiet pretend">
          Simulated room. It behaves
          <select
            class="field"
            aria-label="How the room behaves"
            @change="pretend(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="[fault, words] in FAULTS" :key="fault" :value="fault">
              {{ words }}
            </option>
          </select>
          <button class="plain link" :disabled="busy" @click="readNow">read the loggers now</button>
        </p>
        <SetPointLeaf v-model="setting" :room="room" @set="setPoint" />
      </section>
    </div>
  </template>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 10px;
}

.scan input {
  width: 250px;
  min-height: 44px;
  padding: 0 12px;
  border: 1.5px solid var(--ink-3);
  border-radius: 7px;
  background: transparent;
  color: var(--ink);
}

.scan input::placeholder {
  color: var(--ink-2);
}

.tray {
  display: grid;
  gap: 8px;
  margin-bottom: 12px;
  padding: 12px 16px;
  border: 1.5px dashed var(--blue);
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}

.waiting {
  margin-bottom: 16px;
  padding: 2px 16px;
  background: var(--sunk);
}

.group {
  display: flex;
  gap: 20px;
  align-items: center;
  justify-content: space-between;
  padding: 9px 0;
}

.group + .group {
  border-top: 1px solid var(--hair);
}

.what {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}

.latest {
  display: grid;
  text-align: right;
}

.latest b {
  font-size: 20px;
  line-height: 1.1;
}

.bad {
  color: var(--brick);
  font-weight: 600;
}

.rooms {
  display: grid;
  grid-template-columns: 212px minmax(0, 1fr);
  gap: 28px;
}

.rooms ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.rooms li button {
  display: grid;
  grid-template-columns: 1fr auto;
  width: 100%;
  min-height: 56px;
  align-content: center;
  padding: 6px 10px 6px 12px;
  border-bottom: 1px solid var(--hair);
  border-left: 4px solid transparent;
  line-height: 1.25;
  text-align: left;
}

.rooms li .open {
  border-left-color: var(--blue);
  background: var(--sunk);
}

.name {
  font-weight: 600;
}

.count.some {
  font-weight: 700;
}

.room header {
  display: flex;
  gap: 20px;
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

.link {
  min-height: 32px;
  color: var(--blue);
  font-family: var(--text);
  font-size: 14px;
  text-decoration: underline;
  text-underline-offset: 3px;
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

.rod {
  height: 5px;
  margin: 6px 0 0;
  border-radius: 3px;
  background: var(--ink);
}

.leftover {
  display: flex;
  gap: 24px;
  align-items: center;
  justify-content: space-between;
  padding: 12px 0;
  border-bottom: 1px solid var(--hair);
}

.pretend {
  margin-top: 14px;
}

@media (max-width: 1100px) {
  .rooms {
    grid-template-columns: 160px minmax(0, 1fr);
    gap: 18px;
  }
}

@media (max-width: 860px) {
  .rooms {
    grid-template-columns: 1fr;
  }

  .group {
    display: block;
  }
}
</style>
