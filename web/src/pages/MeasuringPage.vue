<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask, client, sentence, type Schemas } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import MeasuredOutline from '@/components/MeasuredOutline.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import StateNote from '@/components/StateNote.vue'
import { useKeys } from '@/composables/keys'
import { three } from '@/composables/words'

type View = Schemas['MeasuringView']
type Specimen = Schemas['MeasuredSpecimen']

/** One reading, one Enter: the place on the outline is lit, and what is odd is said at once. */
const props = defineProps<{ id: number }>()
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const query = useQuery({
  queryKey: ['measuring', props.id],
  queryFn: () =>
    ask(client.GET('/api/tests/{test_id}/measuring', { params: { path: { test_id: props.id } } })),
})
const view = computed(() => query.data.value ?? null)
const picked = ref<number | null>(Number(route.query.specimen) || null)
const place = ref<{ field: string; place: number } | null>(null)
const typed = ref('')
const refused = ref('')
const busy = ref(false)
const used = ref(new Set<string>())
const field = ref<HTMLInputElement | null>(null)
const masses = ref('')

const specimens = computed(() => view.value?.specimens ?? [])
const measured = computed(() => specimens.value.filter((one) => one.done).length)
const current = computed<Specimen | null>(
  () =>
    specimens.value.find((one) => one.id === picked.value) ??
    specimens.value.find((one) => one.open && !one.done && one.called) ??
    specimens.value.find((one) => one.open && !one.done) ??
    specimens.value[0] ??
    null,
)
const round = ref(false)
watch(
  () => current.value?.id,
  () => {
    place.value = null
    round.value = Boolean(current.value?.sizes.some((size) => size.instead && size.readings.length))
    void nextTick(() => field.value?.focus())
  },
)
const hasRound = computed(() => current.value?.sizes.some((size) => size.instead) ?? false)
const sizes = computed(
  () =>
    current.value?.sizes.filter((size) => !hasRound.value || size.instead === round.value) ?? [],
)
/** The first place that was not read yet. */
const nextPlace = computed(() => {
  for (const size of sizes.value)
    if (size.readings.length < size.places_mm.length)
      return { field: size.field, place: size.readings.length }
  return null
})
const at = computed(() => place.value ?? nextPlace.value)
const size = computed(() => sizes.value.find((one) => one.field === at.value?.field) ?? null)
const gauge = computed(
  () => view.value?.gauges.find((one) => one.kind === size.value?.gauge) ?? null,
)
const balance = computed(() => view.value?.gauges.find((one) => one.kind === 'balance') ?? null)
const remarks = computed(() =>
  sizes.value.flatMap((one) => one.remarks.map((remark) => ({ ...remark, title: one.title }))),
)
const allDone = computed(() => specimens.value.every((one) => !one.called || one.done || !one.open))

function keep(told: View) {
  queries.setQueryData(['measuring', props.id], told)
}
async function work(todo: () => Promise<void>) {
  refused.value = ''
  busy.value = true
  try {
    await todo()
  } catch (error) {
    refused.value = sentence(error)
    await query.refetch()
  } finally {
    busy.value = false
    void nextTick(() => field.value?.focus())
  }
}

async function store(one: Specimen, changed: Record<string, number[]>) {
  const dimensions = Object.fromEntries(one.sizes.map((each) => [each.field, each.readings]))
  keep(
    await ask(
      client.PUT('/api/specimens/{specimen_id}/dimensions', {
        params: { path: { specimen_id: one.id } },
        body: {
          dimensions: { ...dimensions, ...changed },
          with_gauges: [...used.value],
          revision: one.revision,
        },
      }),
    ),
  )
}
async function take(value: number) {
  const one = current.value
  const where = at.value
  if (!one || !where || !size.value) return
  const readings = [...size.value.readings]
  readings[where.place] = value
  picked.value = one.id
  await store(one, { [where.field]: readings })
  place.value = null
  if (nextPlace.value || remarks.value.length) return
  // The next specimen, unless there is something to look at on this one.
  picked.value = null
}

function enter() {
  const text = typed.value.trim().replace(',', '.')
  if (!text) {
    if (!nextPlace.value) forward()
    return
  }
  const value = Number(text)
  typed.value = ''
  if (!Number.isFinite(value)) {
    refused.value = `“${text.slice(0, 20)}” is no number; a size in mm is expected`
    return
  }
  void work(() => take(value))
}
function readGauge() {
  const one = current.value
  const from = gauge.value
  if (!one || !from || !at.value || busy.value) return
  void work(async () => {
    const told = await ask(
      client.POST('/api/gauges/{gauge_id}/read', {
        params: { path: { gauge_id: from.id } },
        body: { specimen_id: one.id, field: at.value!.field },
      }),
    )
    used.value.add(told.gauge)
    await take(told.value)
  })
}
function takeBack() {
  const one = current.value
  const last = [...sizes.value].reverse().find((each) => each.readings.length)
  if (!one || !last || busy.value) return
  picked.value = one.id
  void work(() => store(one, { [last.field]: last.readings.slice(0, -1) }))
}
function forward() {
  const next = specimens.value.find(
    (one) => one.open && !one.done && one.called && one.id !== current.value?.id,
  )
  if (next) picked.value = next.id
  else if (view.value) void router.push(`/bench/${view.value.job_id}`)
}
function typing(event: KeyboardEvent) {
  if (event.key === ' ' && !typed.value) {
    event.preventDefault()
    readGauge()
  }
  if (event.key === 'Backspace' && !typed.value) {
    event.preventDefault()
    takeBack()
  }
}
function step(by: number) {
  const placeNow = specimens.value.findIndex((one) => one.id === current.value?.id)
  const next = specimens.value[placeNow + by]
  if (next) picked.value = next.id
}

function weighBlanks() {
  const grams = masses.value
    .split(/[;\s]+/)
    .filter(Boolean)
    .map((one) => Number(one.replace(',', '.')))
  void work(async () => {
    keep(
      await ask(
        client.POST('/api/tests/{test_id}/grammage', {
          params: { path: { test_id: props.id } },
          body: { masses_g: grams, revision: view.value!.revision },
        }),
      ),
    )
    masses.value = ''
  })
}
function chooseRule() {
  const area_rule = view.value!.area_rule === 'mean' ? 'minimum' : 'mean'
  void work(async () =>
    keep(
      await ask(
        client.PUT('/api/tests/{test_id}/area-rule', {
          params: { path: { test_id: props.id } },
          body: { area_rule, revision: view.value!.revision },
        }),
      ),
    ),
  )
}
function readBalance() {
  const from = balance.value
  const one = current.value
  if (!from || !one) return
  void work(async () => {
    const told = await ask(
      client.POST('/api/gauges/{gauge_id}/read', {
        params: { path: { gauge_id: from.id } },
        body: { specimen_id: one.id, field: 'mass' },
      }),
    )
    masses.value = `${masses.value} ${told.value}`.trim()
  })
}
const FAULTS: [string, string][] = [
  ['none', 'as it should'],
  ['inches', 'as if set to inches'],
  ['rubbish', 'and sends rubbish'],
  ['silent', 'not at all'],
]
const pretend = (fault: string) =>
  work(async () => {
    await ask(
      client.POST('/api/gauges/{gauge_id}/pretend', {
        params: { path: { gauge_id: gauge.value!.id } },
        body: { fault },
      }),
    )
  })

useKeys(() => [
  { key: ' ', says: 'read the gauge', act: readGauge },
  { key: 'Enter', says: 'take the reading', act: enter },
  { key: 'Backspace', says: 'take the last reading back', act: takeBack },
  { key: 'ArrowRight', says: 'the next specimen', act: () => step(1) },
  { key: 'ArrowLeft', says: 'the specimen before', act: () => step(-1) },
])
</script>

<template>
  <FromRecord v-if="!query.data.value" :query="query" />
  <div v-else-if="view" class="measuring">
    <header>
      <div>
        <p class="mono small quiet">
          <router-link :to="`/jobs/${view.job_id}`">{{ view.job_number }}</router-link> ·
          {{ view.product }}
        </p>
        <h1>Measure: {{ view.title }}</h1>
      </div>
      <p class="mono done">
        <b>{{ measured }}</b><span class="quiet">/{{ specimens.length }} measured</span>
      </p>
    </header>
    <StateNote
      v-if="!specimens.length || (!specimens[0]!.sizes.length && !view.weighs)"
      title="Nothing is measured for this test"
      says="Its figures need no size of the specimens."
    >
      <router-link class="act" :to="`/jobs/${view.job_id}`">Back to the job</router-link>
    </StateNote>
    <template v-else>
      <div class="slips" role="group" aria-label="Specimens">
        <button
          v-for="one in specimens"
          :key="one.id"
          class="plain slip mono"
          :class="{
            now: one.id === current?.id,
            done: one.done,
            odd: one.sizes.some((each) => each.remarks.length),
            spare: !one.called,
            closed: !one.open,
          }"
          @click="picked = one.id"
        >
          {{ one.label }}
        </button>
      </div>
      <div v-if="current && specimens[0]!.sizes.length" class="halves">
        <MeasuredOutline
          :view="view"
          :sizes="sizes"
          :at="current.open ? at : null"
          @pick="(name, number) => (place = { field: name, place: number })"
        />
        <section>
          <p v-if="!current.open" class="closed-note">
            {{ current.label }} {{ current.why_closed }}; its sizes stay as they are.
          </p>
          <template v-else>
            <label v-if="hasRound" class="round">
              <input v-model="round" type="checkbox" /> a round specimen: diameter
            </label>
            <p class="asked">
              <b class="mono">{{ current.label }}</b>
              <template v-if="at && size">
                {{ size.title }}
                <span class="quiet">{{ at.place + 1 }} of {{ size.places_mm.length }}</span>
              </template>
              <template v-else> is measured </template>
            </p>
            <form class="entry" @submit.prevent="enter">
              <input
                ref="field"
                v-model="typed"
                class="mono"
                inputmode="decimal"
                autocomplete="off"
                :aria-label="size ? `${size.title} in mm` : 'Reading'"
                :disabled="busy"
                autofocus
                @keydown="typing"
              />
              <span class="mono unit">mm</span>
              <button class="act main">{{ at ? 'Take it' : 'Next' }} <kbd>Enter</kbd></button>
            </form>
            <div class="row">
              <button
                v-if="gauge && at"
                type="button"
                class="act"
                :disabled="busy"
                @click="readGauge"
              >
                Read the {{ gauge.name.toLowerCase() }} <kbd>Space</kbd>
              </button>
              <button type="button" class="act" :disabled="busy" @click="takeBack">
                Take back <kbd>⌫</kbd>
              </button>
              <span v-if="gauge?.overdue" class="bad small">its calibration is overdue</span>
            </div>
          </template>
          <RefusalNote v-model="refused" />
          <div v-if="remarks.length" class="rules" role="alert">
            <p v-for="(one, number) in remarks" :key="number">
              <b>{{ one.title }}:</b> {{ one.words }}
            </p>
            <p class="quiet small">
              Click the place on the outline to read it again, or go on if it is so.
            </p>
          </div>
          <table class="ruled">
            <thead>
              <tr>
                <th>Size</th>
                <th class="right">Readings, mm</th>
                <th class="right">Mean</th>
                <th class="right">Least</th>
                <th class="right">Spread</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in sizes" :key="one.field">
                <td>{{ one.title }}</td>
                <td class="right mono readings">
                  <span
                    v-for="(reading, number) in one.readings"
                    :key="number"
                    :class="{ bad: one.remarks.some((each) => each.place === number) }"
                    >{{ reading }}</span
                  >
                </td>
                <td class="right mono">{{ one.mean_mm?.toFixed(3) ?? '–' }}</td>
                <td class="right mono">{{ one.least_mm?.toFixed(3) ?? '–' }}</td>
                <td class="right mono">
                  {{ one.spread_percent === null ? '–' : `${one.spread_percent.toFixed(1)} %` }}
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="current.mean_mm2 !== null" class="section">
            Section:
            <span :class="{ own: view.area_rule === 'mean' }"
              >mean <b class="mono">{{ three(current.mean_mm2) }}</b> mm²</span
            >
            <span :class="{ own: view.area_rule === 'minimum' }"
              >smallest <b class="mono">{{ three(current.least_mm2) }}</b> mm²</span
            >
            <button
              v-if="
                view.area_rule && !specimens.some((one) => one.why_closed === 'was tested already')
              "
              class="plain link"
              :disabled="busy"
              @click="chooseRule"
            >
              compute by the {{ view.area_rule === 'mean' ? 'smallest' : 'mean' }}
            </button>
            <span v-else-if="view.area_rule" class="quiet small"
              >this test computes by the {{ view.area_rule === 'mean' ? 'mean' : 'smallest' }}</span
            >
          </p>
          <p v-if="allDone" class="quiet">
            Every specimen is measured.
            <router-link :to="`/bench/${view.job_id}`">To the bench</router-link>
          </p>
          <p v-if="gauge?.simulated" class="small quiet">
            Simulated {{ gauge.name.toLowerCase() }}. It reads
            <select
              class="field"
              aria-label="How the gauge reads"
              @change="pretend(($event.target as HTMLSelectElement).value)"
            >
              <option v-for="[fault, words] in FAULTS" :key="fault" :value="fault">
                {{ words }}
              </option>
            </select>
          </p>
        </section>
      </div>
      <form v-if="view.weighs" class="grammage" @submit.prevent="weighBlanks">
        <h2>Grammage</h2>
        <p class="quiet">
          Mass of pieces of {{ view.blank_words }}, parted by spaces; the mean over the area.
          <template v-if="view.grammage_g_m2">
            Now <b class="mono">{{ view.grammage_g_m2 }} g/m²</b>.
          </template>
        </p>
        <div class="row">
          <input v-model="masses" class="mono" aria-label="Masses in g" inputmode="decimal" />
          <span class="mono">g</span>
          <button v-if="balance" type="button" class="act" :disabled="busy" @click="readBalance">
            Read the balance
          </button>
          <button class="act" :disabled="busy || !masses.trim()">Keep it</button>
        </div>
        <RefusalNote v-if="!specimens[0]!.sizes.length" v-model="refused" />
      </form>
    </template>
  </div>
</template>

<style scoped>
header {
  display: flex;
  align-items: end;
  justify-content: space-between;
}

.done b {
  font-size: 24px;
}

.slips {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  margin: 12px 0 16px;
}

.slip {
  min-width: 46px;
  min-height: 44px;
  padding: 0 8px;
  border: 1.5px solid var(--ink-3);
  border-radius: 5px;
  color: var(--ink-2);
  font-weight: 600;
}

.slip.spare {
  border-style: dashed;
}

.slip.done {
  border-color: var(--ink);
  background: var(--ink);
  color: var(--page);
}

.slip.odd {
  border-color: var(--brick);
  box-shadow: inset 0 -5px 0 var(--brick);
}

.slip.now {
  outline: 3px solid var(--blue);
  outline-offset: 1px;
}

.slip.closed {
  opacity: 0.55;
}

.halves {
  display: grid;
  grid-template-columns: minmax(240px, 0.8fr) minmax(0, 1.3fr);
  gap: 34px;
}

.halves > svg {
  max-height: calc(100dvh - 330px);
}

section {
  display: grid;
  gap: 12px;
  align-content: start;
}

.asked {
  font-size: 22px;
}

.asked b {
  margin-right: 8px;
  font-size: 30px;
}

.entry,
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}

.entry input {
  width: 210px;
  min-height: 68px;
  padding: 0 14px;
  border: 2px solid var(--blue);
  border-radius: 8px;
  background: var(--page);
  color: var(--ink);
  font-size: 38px;
  text-align: right;
}

.unit {
  font-size: 22px;
}

.rules {
  padding: 9px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

.bad {
  color: var(--brick);
  font-weight: 700;
}

.readings span + span {
  margin-left: 12px;
}

.section {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  align-items: baseline;
}

.own {
  text-decoration: underline;
  text-underline-offset: 4px;
}

.link {
  min-height: 32px;
  color: var(--blue);
  font-size: 14px;
  text-decoration: underline;
  text-underline-offset: 3px;
}

.round {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 36px;
}

.closed-note {
  padding: 9px 14px;
  background: var(--sunk);
}

.grammage {
  display: grid;
  gap: 8px;
  margin-top: 26px;
  padding-top: 16px;
  border-top: 1.5px solid var(--ink);
}

.grammage input {
  min-width: 280px;
  min-height: 44px;
  padding: 0 10px;
  border: 1.5px solid var(--ink-3);
  border-radius: 7px;
  background: var(--page);
  color: var(--ink);
}

@media (max-width: 900px) {
  .halves {
    grid-template-columns: 1fr;
  }
}
</style>
