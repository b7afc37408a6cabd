<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask, asProblem, client } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import BenchNext from '@/components/BenchNext.vue'
import LimitRule from '@/components/LimitRule.vue'
import ReadyCheck from '@/components/ReadyCheck.vue'
import ReasonLeaf from '@/components/ReasonLeaf.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import SpecimenSlip from '@/components/SpecimenSlip.vue'
import StateNote from '@/components/StateNote.vue'
import TraceChart, { type Mark } from '@/components/TraceChart.vue'
import VoidKeys from '@/components/VoidKeys.vue'
import WorkingSlip from '@/components/WorkingSlip.vue'
import { useNow } from '@/composables/clock'
import { useKeys } from '@/composables/keys'
import { useLiveRun } from '@/composables/liveRun'
import { useAct, useJob, useMethods } from '@/composables/queries'
import { stretch } from '@/composables/words'

const props = defineProps<{ id: number }>()
const route = useRoute()
const router = useRouter()
const job = useJob(props.id)
const methods = useMethods()
const now = useNow()
const { act, refused, busy } = useAct()

const test = computed(() => job.data.value?.tests.find((one) => one.at_frame) ?? null)
const method = computed(() => methods.data.value?.find((one) => one.id === test.value?.method))
const picked = ref<number | null>(Number(route.query.specimen) || null)
const confirmed = ref(new Set<string>())
const file = ref<HTMLInputElement | null>(null)
const askWhy = ref<{ says: string; go: (why: string) => void } | null>(null)
const whyOpen = ref(false)
const takeBackOpen = ref(false)
const slip = ref(false)

const stations = useQuery({
  queryKey: ['stations', computed(() => test.value?.id)],
  queryFn: () =>
    ask(client.GET('/api/stations', { params: { query: { test_id: test.value!.id } } })),
  enabled: computed(() => test.value !== null),
  refetchInterval: 2500,
})
const station = computed(() => stations.data.value?.[0] ?? null)

const specimens = computed(() => test.value?.specimens ?? [])
const URGENT = ['running', 'to-look-at', 'ready', 'conditioning', 'cut']
const suggested = computed(() => {
  const open = specimens.value.filter((one) => one.called && URGENT.includes(one.state))
  return open.sort((a, b) => URGENT.indexOf(a.state) - URGENT.indexOf(b.state))[0] ?? null
})
const current = computed(
  () =>
    specimens.value.find((one) => one.id === picked.value) ??
    suggested.value ??
    specimens.value.find((one) => one.state === 'tested') ??
    null,
)
const isNext = computed(() => current.value?.id === suggested.value?.id)
const row = computed(() =>
  test.value?.rows.find((one) => one.direction === current.value?.direction),
)
const groups = computed(() =>
  (test.value?.rows ?? []).map((one) =>
    specimens.value.filter((s) => s.direction === one.direction),
  ),
)

watch(
  () => current.value?.id,
  () => (confirmed.value = new Set()),
)

const runId = computed(() => current.value?.run_id ?? null)
const liveId = computed(() => (current.value?.state === 'running' ? runId.value : null))
const live = useLiveRun(liveId, (piece) => {
  if (piece.state === 'abandoned')
    refused.value = `The run gave no samples: ${piece.end_reason}. The specimen can be run again.`
  void job.refetch()
})
const run = useQuery({
  queryKey: ['run', runId, computed(() => current.value?.state)],
  queryFn: () =>
    ask(client.GET('/api/runs/{run_id}', { params: { path: { run_id: runId.value! } } })),
  enabled: computed(() => runId.value !== null && current.value?.state !== 'running'),
  staleTime: Infinity,
})
const isLive = computed(() => liveId.value !== null)
const shown = computed(() =>
  isLive.value || runId.value === null ? null : (run.data.value ?? null),
)
const extension = computed(() =>
  isLive.value ? live.extension.value : (shown.value?.curves[0]?.x ?? []),
)
const force = computed(() => (isLive.value ? live.force.value : (shown.value?.curves[0]?.y ?? [])))
const marks = computed(() => (shown.value?.result?.marks ?? []) as Mark[])
const working = computed(() => (shown.value?.result?.working ?? []) as Record<string, string>[])
const end = computed(() =>
  Math.max(method.value?.run_end_mm ?? 150, extension.value[extension.value.length - 1] ?? 0),
)

const bigForce = computed(() => {
  if (isLive.value) return force.value[force.value.length - 1] ?? 0
  if (shown.value) return current.value?.value ?? null
  return station.value?.force_n ?? null
})
const bigExtension = computed(() => {
  if (isLive.value || shown.value) return extension.value[extension.value.length - 1] ?? 0
  return station.value?.extension_mm ?? null
})

const pathTo = (specimenId: number) => ({ path: { specimen_id: specimenId } })
const atStation = () => ({
  params: { path: { station_id: station.value!.id } },
  body: { test_id: test.value!.id },
})

let startKey = ''
function start(deviation: string | null = null) {
  const specimen = current.value!
  if (!deviation) startKey = crypto.randomUUID()
  return needingWhy(deviation, (why) =>
    ask(
      client.POST('/api/specimens/{specimen_id}/runs', {
        params: pathTo(specimen.id),
        body: {
          station_id: station.value!.id,
          confirmed: [...confirmed.value],
          deviation: why,
          request_key: startKey,
        },
      }),
    ),
  )
}

/** Do it; when it is refused because it would deviate, ask why and do it again with the answer. */
async function needingWhy(why: string | null, work: (why: string | null) => Promise<unknown>) {
  const done = await act(() => work(why))
  if (done || why || !refused.value.includes('go on with a deviation')) return
  const says = refused.value
  refused.value = ''
  askWhy.value = { says, go: (given) => void needingWhy(given, work) }
  whyOpen.value = true
}

async function bringIn(event: Event) {
  const field = event.target as HTMLInputElement
  const chosen = field.files?.[0]
  if (!chosen || !current.value) return
  const specimen = current.value
  await needingWhy(null, async (why) => {
    const body = new FormData()
    body.append('file', chosen)
    if (why) body.append('deviation', why)
    const answer = await fetch(`/api/specimens/${specimen.id}/trace`, { method: 'POST', body })
    if (!answer.ok) throw asProblem(answer.status, await answer.json().catch(() => null))
  })
  field.value = ''
}

function confirm(...codes: string[]) {
  confirmed.value = new Set([...confirmed.value, ...codes])
}
const prepare = () => act(() => ask(client.POST('/api/stations/{station_id}/prepare', atStation())))
const zero = () => act(() => ask(client.POST('/api/stations/{station_id}/zero', atStation())))
const stop = () =>
  act(() =>
    ask(client.POST('/api/runs/{run_id}/stop', { params: { path: { run_id: runId.value! } } })),
  )
async function keep() {
  const kept = await act(() =>
    ask(client.POST('/api/runs/{run_id}/keep', { params: { path: { run_id: runId.value! } } })),
  )
  if (kept) picked.value = null
}
const voidKeys = ref<InstanceType<typeof VoidKeys> | null>(null)
async function voidWith(code: string, words: string) {
  const specimen = current.value!
  const voided = await act(() =>
    ask(
      client.POST('/api/specimens/{specimen_id}/void', {
        params: pathTo(specimen.id),
        body: { code, words },
      }),
    ),
  )
  if (voided) picked.value = null
}
const takeBack = (reason: string) =>
  act(() =>
    ask(
      client.POST('/api/specimens/{specimen_id}/void/withdraw', {
        params: pathTo(current.value!.id),
        body: { reason },
      }),
    ),
  )
const pretend = (fault: string) =>
  act(() =>
    ask(
      client.POST('/api/stations/{station_id}/pretend', {
        params: { path: { station_id: station.value!.id } },
        body: { fault },
      }),
    ),
  )

const missing = computed(() => {
  const rows = test.value?.rows ?? []
  return rows.find((one) => {
    const called = specimens.value.filter((s) => s.called && s.direction === one.direction)
    return called.length < one.wanted
  })
})

interface Step {
  title: string
  why: string
  act: string
  go: () => unknown
  key: string
  kind?: 'stop'
}

/** The one thing to do next for the specimen in hand, and why. */
const next = computed<Step | null>(() => {
  const one = current.value
  if (!test.value || test.value.released) return null
  if (!one || (!suggested.value && one.state !== 'to-look-at')) return afterAll()
  if (one.state === 'running')
    return {
      title: method.value?.watch ?? 'Watch the run',
      why: `It stops by itself at ${end.value.toFixed(0)} mm. If the tear leaves its line or a leg slips, void it at the end.`,
      act: live.piece.value?.line === 'lost' ? 'Close with what is stored' : 'Stop now',
      key: 'Escape',
      kind: 'stop',
      go: stop,
    }
  if (one.state === 'to-look-at')
    return {
      title: `Look at ${one.label} in the jaws`,
      why: 'Did it tear along its line, with both legs held to the end? Then it counts.',
      act: `Keep ${one.label}`,
      key: 'Enter',
      go: keep,
    }
  if (!one.called || ['tested', 'void', 'to-cut'].includes(one.state)) return null
  return readyStep(one.label)
})

function afterAll(): Step | null {
  if (missing.value)
    return {
      title: `The ${missing.value.direction} lacks a specimen`,
      why: 'A void has no spare left to replace it. One more can be cut from what is left of the sheet.',
      act: 'To the sheet',
      key: 'Enter',
      go: () => router.push(`/cutting/${props.id}`),
    }
  if (test.value?.rows.every((one) => one.to_go === 0))
    return {
      title: 'All specimens are tested',
      why: 'The verdict stands; a second person checks and releases.',
      act: 'Judge',
      key: 'Enter',
      go: () => router.push(`/judge/${props.id}`),
    }
  return null
}

function readyStep(label: string): Step | null {
  const at = station.value
  if (!at) return null
  if (!at.reachable)
    return {
      title: `${at.name} does not answer`,
      why: `${at.says}. Check its plug and its line, or bring the trace in from a file.`,
      act: 'Look again',
      key: 'Enter',
      go: () => stations.refetch(),
    }
  if (at.busy_run_id)
    return {
      title: `${at.name} is taken`,
      why: 'Another specimen is running on it.',
      act: 'Look again',
      key: 'Enter',
      go: () => stations.refetch(),
    }
  const open = at.checks.filter((check) => !check.ticked && !confirmed.value.has(check.code))
  const setUp = open.find((check) => check.reads === 'gauge-length' || check.reads === 'speed')
  if (setUp)
    return {
      title: 'Set the frame up',
      why: 'The jaws come to their distance and the speed is set. Keep fingers clear while they move.',
      act: 'Set jaws and speed',
      key: 'Enter',
      go: prepare,
    }
  const byHand = open.find((check) => !check.reads && !check.hold)
  if (byHand)
    return {
      title: `Clamp ${label}`,
      why: `${byHand.title}: ${byHand.reason}.`,
      act: `${label} is clamped`,
      key: 'Enter',
      go: () => confirm(byHand.code),
    }
  if (open.some((check) => check.reads === 'zeroed'))
    return {
      title: 'Zero force and extension',
      why: `The frame shows ${at.force_n?.toFixed(2)} N before the pull; it would be added to every peak.`,
      act: 'Zero',
      key: 'Enter',
      go: zero,
    }
  const holds = at.checks.filter((check) => check.hold)
  return {
    title: holds.map((check) => check.title).join('; ') + '?',
    why: `Then the crosshead starts: ${test.value!.parameters.speed_mm_min} mm per minute.`,
    act: `Fingers are clear, start ${label}`,
    key: 'Enter',
    go: () => {
      confirm(...holds.map((check) => check.code))
      return start()
    },
  }
}

const waitsFor = computed(() => {
  const one = current.value
  if (!one || one.state !== 'conditioning' || !one.ready_at) return ''
  return `${one.label} has ${stretch(Date.parse(one.ready_at) - now.value)} of its conditioning to go.`
})
const canVoid = computed(
  () => !test.value?.released && ['to-look-at', 'tested'].includes(current.value?.state ?? ''),
)
const canBringIn = computed(
  () => isNext.value && ['ready', 'conditioning', 'cut'].includes(current.value?.state ?? ''),
)

useKeys(() => [
  ...(next.value
    ? [{ key: next.value.key, says: next.value.act, act: () => void next.value?.go() }]
    : []),
  ...(canVoid.value
    ? (method.value?.void_codes ?? []).map((code, place) => ({
        key: String(place + 1),
        says: `void: ${code.title}`,
        act: () => void voidKeys.value?.choose(code),
      }))
    : []),
  {
    key: 'i',
    says: 'bring a trace in from a file',
    act: () => canBringIn.value && file.value?.click(),
  },
])
</script>

<template>
  <FromRecord v-if="!job.data.value" :query="job" />
  <StateNote v-else-if="!test" title="Nothing to test" says="This job asks for no test." />
  <div v-else class="bench">
    <header>
      <div class="what">
        <p class="mono small quiet">
          <router-link :to="`/jobs/${id}`">{{ test.job_number }}</router-link> · {{ test.method }}
        </p>
        <h1>{{ test.job_product }}</h1>
      </div>
      <div class="slips">
        <template v-for="(group, place) in groups" :key="place">
          <i v-if="place" class="gap" />
          <SpecimenSlip
            v-for="one in group"
            :key="one.id"
            :specimen="one"
            :in-hand="one.id === current?.id"
            @click="picked = one.id"
          />
        </template>
      </div>
    </header>

    <section class="middle">
      <div class="figures">
        <p>
          <button
            v-if="shown && working.length"
            class="plain mono big opens"
            :aria-label="`Tear force of ${current?.label}, how it came`"
            @click="slip = true"
          >
            {{ bigForce === null ? '–' : bigForce.toFixed(2) }}
          </button>
          <span v-else class="mono big">{{ bigForce === null ? '–' : bigForce.toFixed(1) }}</span>
          <span>N</span>
        </p>
        <p>
          <span class="mono second">{{
            bigExtension === null ? '–' : bigExtension.toFixed(1)
          }}</span>
          <span>mm</span>
        </p>
        <p class="mono quiet set">
          {{ test.parameters.speed_mm_min }} mm/min · gauge {{ test.parameters.gauge_length_mm }} mm
        </p>
      </div>
      <div class="chart">
        <TraceChart
          :extension="extension"
          :force="force"
          :end="end"
          :marks="marks"
          :live="isLive"
        />
        <p v-if="extension.length === 0 && !isLive" class="before quiet">
          The curve of {{ current?.label ?? 'a specimen' }} grows here.
        </p>
        <p
          v-if="isLive && (live.away.value || live.piece.value?.line === 'lost')"
          class="lost"
          role="alert"
        >
          <template v-if="live.away.value"
            >This screen lost the server; the run goes on. Looking again …</template
          >
          <template v-else
            >{{ live.piece.value?.line_says }}. {{ live.piece.value?.samples }} samples are safe;
            asking again for the rest …</template
          >
        </p>
      </div>
      <div v-if="row" class="rule">
        <p>
          <strong>{{ row.direction }}</strong><br /><span class="mono small">{{
            row.limit_words
          }}</span>
        </p>
        <LimitRule v-if="row.rule" :rule="row.rule" size="page" />
      </div>
    </section>

    <aside>
      <p v-if="current" class="fact">
        <span class="mono">{{ current.label }}</span> · long side along the {{ current.long_side
        }}<br />
        <strong>{{ current.works_on }}</strong>
      </p>
      <p v-if="!isNext && suggested" class="small">
        <button class="plain opens" @click="picked = null">
          Back to {{ suggested.label }}, which is next
        </button>
      </p>
      <p v-if="waitsFor" class="waits">{{ waitsFor }}</p>
      <BenchNext
        v-if="next && (isNext || !suggested || current?.state === 'to-look-at')"
        :step="next"
        :busy="busy"
      />
      <RefusalNote v-model="refused" />
      <p v-if="test.released" class="quiet">Released. Nothing in it changes any more.</p>

      <template v-if="current?.state === 'void' && current.void">
        <h2>Void: {{ current.void.title.toLowerCase() }}</h2>
        <p>{{ current.void.words }}. {{ current.void.by }}</p>
        <button v-if="!test.released" class="act" @click="takeBackOpen = true">
          Take the void back
        </button>
      </template>
      <p
        v-for="flag in current?.state === 'void' ? [] : current?.flags"
        :key="flag.code"
        class="flag"
      >
        {{ flag.text }}
      </p>
      <VoidKeys
        v-if="canVoid && method"
        ref="voidKeys"
        :codes="method.void_codes"
        :quiet="current?.state === 'tested'"
        :busy="busy"
        @void="voidWith"
      />
      <template
        v-if="
          station && isNext && current && ['ready', 'conditioning', 'cut'].includes(current.state)
        "
      >
        <ReadyCheck :station="station" :confirmed="confirmed" />
        <p class="small caution">
          Jaws pinch and crush. Local rules for the machine and its guard go before this page.
        </p>
        <p v-if="station.overdue" class="flag">
          The calibration of {{ station.instrument }} is overdue.
        </p>
      </template>
      <div class="bottom">
        <p v-if="shown?.source_name" class="small quiet">
          From {{ shown.source_name }}: {{ shown.said.join('; ') }}
        </p>
        <p v-if="shown" class="small quiet">
          {{ shown.samples }} samples, {{ shown.end_reason }}.
          <a :href="`/api/runs/${shown.id}/trace.csv`">raw data</a>
        </p>
        <button v-if="canBringIn" class="act" @click="file?.click()">
          Take it from a CSV file <kbd>I</kbd>
        </button>
        <input ref="file" type="file" accept=".csv,.txt,text/csv" hidden @change="bringIn" />
        <p v-if="station?.simulated" class="small quiet standin">
          {{ station.name }} is simulated, {{ station.pace }} times as fast. The next specimen
          <select
            aria-label="How the next specimen behaves"
            @change="pretend(($event.target as HTMLSelectElement).value)"
          >
            <option value="none">tears true</option>
            <option value="jaw-slip">slips in the jaw</option>
            <option value="unplug">meets a pulled plug</option>
            <option value="rubbish">meets a bad line</option>
          </select>
        </p>
      </div>
    </aside>
    <WorkingSlip v-model="slip" :title="`Tear force of ${current?.label ?? ''}`" :lines="working" />
    <ReasonLeaf
      v-model="whyOpen"
      title="Go on with a deviation?"
      :says="askWhy?.says ?? ''"
      act="Go on with it"
      @given="askWhy?.go($event)"
    />
    <ReasonLeaf
      v-model="takeBackOpen"
      :title="`Take the void of ${current?.label ?? ''} back?`"
      says="The specimen counts again, and the reason stays in the record."
      act="Take it back"
      @given="takeBack"
    />
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr) 320px;
  gap: 12px 30px;
  height: 100%;
}

header {
  display: flex;
  grid-column: 1 / -1;
  gap: 24px;
  align-items: end;
  justify-content: space-between;
  min-width: 0;
}

.what {
  flex: 0 1 300px;
}

h1 {
  font-size: 23px;
}

.slips {
  display: flex;
  min-width: 0;
  padding: 7px 8px 5px;
  overflow-x: auto;
  border-radius: 8px;
  background: var(--ground);
}

.gap {
  flex: 0 0 18px;
}

.middle {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

.figures {
  display: flex;
  gap: 30px;
  align-items: baseline;
}

.big {
  display: inline-block;
  min-width: 3.6ch;
  font-size: 50px;
  font-weight: 700;
  line-height: 1;
  text-align: right;
}

.big.opens {
  color: inherit;
  line-height: 1;
}

.second {
  display: inline-block;
  min-width: 5ch;
  font-size: 32px;
  line-height: 1;
  text-align: right;
}

.figures p {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

.opens {
  min-height: 32px;
  white-space: nowrap;
  border-bottom: 1.5px dotted var(--ink-3);
  color: var(--blue);
}

.set {
  margin-left: auto;
  white-space: nowrap;
}

.chart {
  position: relative;
  flex: 1;
  min-height: 220px;
  margin-top: 6px;
}

.before {
  position: absolute;
  inset: 40% 0 auto 60px;
  text-align: center;
}

.lost {
  position: absolute;
  inset: 30px 30px auto 60px;
  padding: 10px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

.rule {
  display: grid;
  grid-template-columns: 132px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
}

aside {
  display: flex;
  flex-direction: column;
  gap: 13px;
  min-height: 0;
  padding-left: 26px;
  overflow-y: auto;
  border-left: 1px solid var(--hair);
}

.fact strong {
  font-size: 19px;
}

.waits,
.flag {
  padding: 7px 12px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

.caution {
  padding-left: 10px;
  border-left: 5px solid var(--brick);
}

.bottom {
  display: grid;
  gap: 10px;
  margin-top: auto;
  padding-top: 8px;
}

.bottom .act {
  justify-content: flex-start;
  text-align: left;
}

select {
  min-height: 30px;
  border: 0;
  background: transparent;
  appearance: auto;
  border-bottom: 1.5px dotted var(--ink-3);
  color: var(--blue);
  font: inherit;
}

select option {
  background: var(--page);
  color: var(--ink);
}

@media (max-width: 1100px) {
  .bench {
    grid-template-columns: minmax(0, 1fr) 262px;
    gap: 10px 20px;
  }

  header {
    display: grid;
    gap: 8px;
  }

  .what {
    display: flex;
    gap: 14px;
    align-items: baseline;
  }

  .figures .set {
    display: none;
  }

  aside {
    padding-left: 18px;
  }
}

@media (max-width: 860px) {
  .bench {
    grid-template: auto auto auto / minmax(0, 1fr);
    height: auto;
  }

  .chart {
    height: 46vh;
  }

  aside {
    padding: 0;
    border: 0;
  }
}
</style>
