<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { ask, client, type JudgedRow, type SpecimenView } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import LimitRule from '@/components/LimitRule.vue'
import ReasonLeaf from '@/components/ReasonLeaf.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import TraceChart, { type Mark } from '@/components/TraceChart.vue'
import VerdictWord from '@/components/VerdictWord.vue'
import WorkingSlip from '@/components/WorkingSlip.vue'
import { useAct } from '@/composables/queries'
import { useSession } from '@/composables/session'
import { moment, named, three } from '@/composables/words'

const props = defineProps<{ id: number }>()
const { me } = useSession()
const { act, refused, busy } = useAct()
const password = ref('')
const correctOpen = ref(false)
const slip = ref(false)
const slipTitle = ref('')
const slipLines = ref<Record<string, string>[]>([])
const traceOf = ref<SpecimenView | null>(null)

const openKey = ref('')
const keyOf = (row: JudgedRow) => `${row.property} ${row.group}`

const query = useQuery({
  queryKey: ['draft', props.id],
  queryFn: () =>
    ask(client.GET('/api/jobs/{job_id}/draft', { params: { path: { job_id: props.id } } })),
  refetchInterval: 6000,
})
const draft = computed(() => query.data.value ?? null)
const job = computed(() => draft.value?.job ?? null)
/** The content that was looked at: what is signed is what was seen, not what came meanwhile. */
const seenContent = ref('')
watch(draft, (now) => {
  if (now && !seenContent.value) seenContent.value = now.content_sha256
})
const changedMeanwhile = computed(
  () => draft.value !== null && seenContent.value !== draft.value.content_sha256,
)
const lookedAgain = () => (seenContent.value = draft.value!.content_sha256)
const mayRelease = computed(() => ['reviewer', 'manager'].includes(me.value?.role ?? ''))
const reports = computed(() => [...(job.value?.reports ?? [])].reverse())

const run = useQuery({
  queryKey: ['run', computed(() => traceOf.value?.run_id)],
  queryFn: () =>
    ask(client.GET('/api/runs/{run_id}', { params: { path: { run_id: traceOf.value!.run_id! } } })),
  enabled: computed(() => traceOf.value !== null && traceOf.value.run_id !== null),
  staleTime: Infinity,
})
const curve = computed(() => run.data.value?.curves.at(-1) ?? null)
const under = computed(() =>
  (run.data.value?.curves.length ?? 0) > 1 ? run.data.value!.curves[0] : undefined,
)
const marks = computed(() => (run.data.value?.result?.marks ?? []) as Mark[])

/** Every figure of a row, each of which opens its working. */
function figuresOf(row: JudgedRow): [string, string][] {
  const told = row.summary
  if (!told) return []
  const words: [string, string][] = [
    [
      told.statistic ?? 'mean',
      `${told.qualifier ?? ''} ${told.reported ?? 'none yet'}\u00a0${row.unit}`.trim(),
    ],
    ['n', told.n === null ? '–' : String(told.n)],
  ]
  if (told.minimum === null) return words
  return [
    ...words,
    ['SD', three(told.sd)],
    ['CV %', three(told.cv_percent)],
    ['95 % interval', `±\u00a0${three(told.ci95_half_width)}`],
    ['least', three(told.minimum)],
    ['most', three(told.maximum)],
  ]
}

function look(row: JudgedRow, one: SpecimenView) {
  const same = traceOf.value?.id === one.id && openKey.value === keyOf(row)
  traceOf.value = same ? null : one
  openKey.value = same ? '' : keyOf(row)
}

function showRow(row: JudgedRow) {
  slipTitle.value = named(row)
  slipLines.value = row.working
  slip.value = true
}
function showSpecimen() {
  slipTitle.value = `${traceOf.value?.label ?? ''}`
  slipLines.value = (run.data.value?.result?.working ?? []) as Record<string, string>[]
  slip.value = true
}

async function release() {
  const body = {
    password: password.value,
    revision: job.value!.revision,
    content_sha256: seenContent.value,
  }
  const params = { path: { job_id: props.id } }
  password.value = ''
  await act(() => ask(client.POST('/api/jobs/{job_id}/release', { params, body })))
}
const correct = (reason: string) =>
  act(() =>
    ask(
      client.POST('/api/jobs/{job_id}/correction', {
        params: { path: { job_id: props.id } },
        body: { reason },
      }),
    ),
  )
const pulled = (row: JudgedRow, specimens: SpecimenView[]) =>
  specimens.filter((one) => row.labels?.includes(one.label) && one.run_id !== null)
</script>

<template>
  <FromRecord v-if="!query.data.value" :query="query" />
  <div v-else-if="draft && job" class="judge">
    <section>
      <p class="mono small quiet">
        <router-link :to="`/jobs/${id}`">{{ job.number }}</router-link> · {{ job.client }} · lot
        {{ job.lot }}
      </p>
      <h1>{{ job.product }}</h1>
      <template v-for="test in job.tests" :key="test.id">
        <article v-for="row in test.rows" :key="row.group + row.property">
          <header>
            <h2>{{ named(row) }}</h2>
            <span class="mono">{{ row.limit_words }}</span>
            <VerdictWord
              :verdict="row.verdict"
              :open="row.to_go ? `${row.to_go} to go` : 'report only'"
            />
          </header>
          <LimitRule v-if="row.rule" :rule="row.rule" size="page" />
          <p v-if="row.other_school_differs" class="flag">
            On the edge: compared {{ row.compared ? 'unrounded' : 'as rounded' }}, it would be
            decided the other way.
          </p>
          <dl v-if="row.summary" class="figures">
            <div v-for="[name, figure] in figuresOf(row)" :key="name">
              <dt>{{ name }}</dt>
              <dd>
                <button class="plain mono" @click="showRow(row)">{{ figure }}</button>
              </dd>
            </div>
          </dl>
          <ul class="specimens">
            <li
              v-for="one in pulled(row, test.specimens)"
              :key="one.id"
              :class="{ void: one.void }"
            >
              <button
                class="plain"
                :class="{ on: traceOf?.id === one.id && openKey === keyOf(row) }"
                @click="look(row, one)"
              >
                <b class="mono">{{ one.label }}</b>
                <span v-if="row.property === test.rows[0]?.property" class="mono value">{{
                  one.value_text ?? '–'
                }}</span>
                <span v-if="one.void" class="why">void, {{ one.void.title.toLowerCase() }}</span>
                <span v-else-if="one.state === 'to-look-at'" class="why">not kept yet</span>
                <span v-else-if="one.spare" class="why quiet">replacement</span>
              </button>
            </li>
          </ul>
          <div v-if="traceOf && keyOf(row) === openKey" class="trace">
            <TraceChart
              v-if="curve"
              :extension="curve.x"
              :force="curve.y"
              :axes="curve"
              :under="under"
              :marks="marks"
            />
            <p v-if="run.data.value" class="small quiet">
              {{ traceOf.label }}: {{ run.data.value.by }}, {{ moment(run.data.value.started_at) }}.
              <span v-if="traceOf.void">{{ traceOf.void.words }} ({{ traceOf.void.by }}).</span>
              <button class="plain opens" @click="showSpecimen">how the figure came</button> ·
              <a :href="`/api/runs/${run.data.value.id}/trace.csv`">raw data</a>
            </p>
          </div>
        </article>
      </template>
    </section>

    <aside>
      <p class="quiet small">
        {{ job.released ? 'Released report' : `Report ${draft.number} revision ${draft.revision}` }}
      </p>
      <p class="word" :class="{ fails: draft.verdict === 'does not meet' }">
        <VerdictWord :verdict="draft.verdict" open="not judged yet" />
      </p>
      <template v-if="!job.released">
        <p v-if="draft.not_by_you" class="flag">{{ draft.not_by_you }}.</p>
        <p v-else-if="draft.obstacles.length === 0">
          Tested by {{ draft.tested_by.join(', ') }}. Released by you, {{ me?.name }}; then nothing
          in it changes any more.
        </p>
        <ul v-if="draft.obstacles.length" class="obstacles">
          <li v-for="line in draft.obstacles" :key="line">{{ line }}</li>
        </ul>
        <div v-if="mayRelease && changedMeanwhile" class="flag">
          <p>The draft was changed after you opened it. Look at it as it is now.</p>
          <button class="act" @click="lookedAgain">I have looked at it again</button>
        </div>
        <form
          v-else-if="mayRelease && !draft.not_by_you && draft.obstacles.length === 0"
          @submit.prevent="release"
        >
          <input
            class="hide"
            autocomplete="username"
            :value="me?.name"
            readonly
            tabindex="-1"
            aria-hidden="true"
          />
          <v-text-field
            v-model="password"
            type="password"
            label="Your password again"
            autocomplete="current-password"
          />
          <button class="act main" :disabled="busy || !password">
            {{ busy ? 'Setting the report …' : 'Release the report' }} <kbd>Enter</kbd>
          </button>
        </form>
        <p v-else-if="!mayRelease" class="quiet">
          A reviewer or manager who did not test it releases it.
        </p>
        <RefusalNote v-model="refused" />
        <a class="act" :href="`/api/jobs/${id}/draft.pdf`" target="_blank">Read the draft as PDF</a>
      </template>
      <template v-else>
        <RefusalNote v-model="refused" />
      </template>
      <article v-for="(report, place) in reports" :key="report.id" class="report">
        <h3>{{ report.number }} revision {{ report.revision }}</h3>
        <p class="small">
          <VerdictWord :verdict="report.verdict" />, {{ moment(report.released_at) }},
          {{ report.released_by }}
        </p>
        <p v-if="report.reason" class="small quiet">{{ report.reason }}</p>
        <div class="forms">
          <a
            class="act"
            :class="{ main: place === 0 && job.released }"
            :href="`/api/reports/${report.id}.pdf`"
            target="_blank"
            >PDF</a
          >
          <a class="act" :href="`/api/reports/${report.id}.json`" download>JSON</a>
          <a class="act" :href="`/api/reports/${report.id}/specimens.csv`">CSV</a>
          <a class="act" :href="`/api/reports/${report.id}/traces.csv`">Traces</a>
        </div>
      </article>
      <button v-if="job.released && mayRelease" class="act" @click="correctOpen = true">
        Open a correction
      </button>
      <h3>Deviations</h3>
      <ul v-if="draft.deviations.length" class="deviations">
        <li v-for="line in draft.deviations" :key="line">{{ line }}</li>
      </ul>
      <p v-else class="quiet">None.</p>
    </aside>
    <WorkingSlip v-model="slip" :title="slipTitle" :lines="slipLines" />
    <ReasonLeaf
      v-model="correctOpen"
      title="Open a correction?"
      says="The released report stays readable. The job opens again, and its next release is a new revision that says this reason."
      act="Open it"
      @given="correct"
    />
  </div>
</template>

<style scoped>
.judge {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 308px;
  gap: 34px;
  min-height: 100%;
}

section > article {
  padding: 16px 0 14px;
  border-bottom: 1px solid var(--hair);
}

article header {
  display: flex;
  gap: 22px;
  align-items: baseline;
}

article header .verdict {
  margin-left: auto;
  font-size: 18px;
}

.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 30px;
  margin: 6px 0 8px;
}

dt {
  color: var(--ink-2);
  font-size: 14px;
}

dd {
  margin: 0;
  font-size: 17px;
}

.figures button {
  min-height: 30px;
  border-bottom: 1.5px dotted var(--ink-3);
}

.figures div:first-child button {
  font-size: 21px;
  font-weight: 700;
}

.figures div:not(:first-child) button {
  padding-top: 4px;
}

.specimens {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.specimens button {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 40px;
  padding: 0 11px;
  border: 1.5px solid var(--hair);
  border-radius: 7px;
}

.specimens .on {
  border-color: var(--blue);
}

.void b,
.void .value {
  color: var(--ink-2);
  text-decoration: line-through;
}

.why {
  font-size: 14px;
}

.trace {
  height: 300px;
  margin: 10px 0 26px;
}

.flag {
  margin: 6px 0;
  padding: 7px 12px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

.opens {
  color: var(--blue);
  text-decoration: underline dotted;
}

aside {
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding-left: 26px;
  border-left: 1px solid var(--hair);
}

.word {
  padding: 12px 0;
  border: solid var(--ink);
  border-width: 2.5px 0;
}

.word .verdict {
  font-size: 27px;
  line-height: 1.1;
}

.word .verdict :deep(svg) {
  width: 26px;
  height: 26px;
}

.word.fails {
  border-color: var(--brick);
}

form {
  display: grid;
  gap: 10px;
}

.hide {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}

.obstacles,
.deviations {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0 0 0 16px;
}

.report {
  padding: 10px 0;
  border-top: 1px solid var(--hair);
}

.forms {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 7px;
  margin-top: 8px;
}

@media (max-width: 1100px) {
  .judge {
    grid-template-columns: minmax(0, 1fr) 264px;
    gap: 20px;
  }

  aside {
    padding-left: 18px;
  }
}
</style>
