<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useQueries } from '@tanstack/vue-query'
import { ask, client, type JobView, type MethodLine, type Schemas } from '@/api/client'
import LimitField from '@/components/LimitField.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import SchemaField from '@/components/SchemaField.vue'
import { useHowMuch } from '@/composables/howMuch'
import { kindsFor, limitFrom, type LimitTyped } from '@/composables/limits'
import { useAct, useMethods } from '@/composables/queries'
import { asNumber, type Schema } from '@/composables/schema'
import { momentFrom, written } from '@/composables/words'
import { placeOf } from '@/router'

/** The counter: what arrived, what is asked of it, and by which limits. */
const route = useRoute()
const router = useRouter()
const methods = useMethods()
const { act, refused, busy } = useAct()
const requestKey = crypto.randomUUID()

const inFourDays = new Date(Date.now() + 4 * 86_400_000)
inFourDays.setHours(16, 0, 0, 0)

const sample = reactive({
  client: '',
  product: '',
  lot: '',
  material: '',
  arrival_state: 'as it should be',
  width_mm: String(route.query.width ?? '1480'),
  length_mm: '1000',
  count: '',
  mass_g: '',
  due: written(inFourDays),
})
type Form = Schemas['SampleAsked']['form']
/** What arrives is not always a roll: each form is asked for what it is. */
const FORMS: { value: Form; words: string }[] = [
  { value: 'sheet', words: 'Sheet' },
  { value: 'pieces', words: 'Pieces' },
  { value: 'granules', words: 'Granules' },
  { value: 'packs', words: 'Packs' },
]
const form = ref<Form>('sheet')
const tried = ref(false)
const picked = ref<string | null>(null)

interface Wanted {
  key: number
  method: MethodLine
  parameters: Record<string, unknown>
  limits: Record<string, LimitTyped>
}
const wanted = ref<Wanted[]>([])
let counter = 0
const choices = computed(() =>
  (methods.data.value ?? []).map((one) => ({ value: one.id, title: `${one.title}, ${one.id}` })),
)

/** The limits that are asked for at the counter: of the first property, each way. */
function rowsOf(method: MethodLine) {
  const first = method.properties[0]
  if (!first) return []
  const directions = method.directions.length && !method.by_document ? method.directions : ['']
  return directions.map((direction) => ({
    key: `${first.name} ${direction}`,
    property: first.name!,
    direction,
    label: direction || first.title!,
    unit: first.unit!,
    statistic: first.statistic!,
  }))
}

function add(id: string | null) {
  const method = methods.data.value?.find((one) => one.id === id)
  if (!method) return
  const limits: Record<string, LimitTyped> = {}
  for (const row of rowsOf(method))
    limits[row.key] = { kind: kindsFor(row.statistic, row.unit)[0]!, first: '', second: '' }
  wanted.value.push({ key: (counter += 1), method, parameters: {}, limits })
  picked.value = null
}

watch(
  methods.data,
  (known) => {
    if (known && !wanted.value.length)
      String(route.query.tests ?? '')
        .split(',')
        .forEach(add)
  },
  { immediate: true },
)

const pages = useQueries({
  queries: computed(() =>
    wanted.value
      .filter((one) => one.method.needed.length)
      .map((one) => ({
        queryKey: ['method', one.method.id],
        queryFn: () =>
          ask(
            client.GET('/api/methods/{method_id}', {
              params: { path: { method_id: one.method.id } },
            }),
          ),
        staleTime: Infinity,
      })),
  ),
})
function schemaOf(id: string): Schema {
  const page = pages.value.find((one) => one.data?.id === id)?.data
  return (page?.parameters_schema ?? {}) as Schema
}

const width = computed(() => Number(sample.width_mm.replace(',', '.')))
const length = computed(() => Number(sample.length_mm.replace(',', '.')))
const asked = computed(() =>
  form.value === 'sheet' &&
  wanted.value.some((one) => one.method.is_cut) &&
  width.value > 0 &&
  length.value > 0
    ? {
        width_mm: width.value,
        length_mm: length.value,
        seconds: 0,
        tests: wanted.value.map((one) => ({
          method: one.method.id,
          parameters: one.parameters,
          specimens_wanted: null,
        })),
      }
    : null,
)
const { found: needs, looking } = useHowMuch(asked)
const drawn = computed(() => {
  const scale = Math.min(300 / width.value, 300 / length.value)
  return Number.isFinite(scale) && scale > 0 ? [width.value * scale, length.value * scale] : null
})
const missing = computed(() =>
  [
    ...(['client', 'product', 'lot', 'material'] as const),
    ...({ sheet: [], granules: ['mass_g'], pieces: ['count'], packs: ['count'] } as const)[
      form.value
    ],
  ].filter((name) => !sample[name].trim()),
)

const dueAt = computed(() => momentFrom(sample.due))
const need = (value: string) => (tried.value && !value.trim() ? 'is needed' : undefined)

async function receive() {
  tried.value = true
  if (missing.value.length || !wanted.value.length || !dueAt.value) return
  let made: JobView | null = null
  const { client: by, product, lot, material, arrival_state, count, mass_g } = sample
  const sizes = {
    sheet: { width_mm: width.value, length_mm: length.value },
    pieces: { count: asNumber(count) as number },
    packs: { count: asNumber(count) as number },
    granules: { mass_g: asNumber(mass_g) as number },
  }[form.value]
  const body = {
    client: by,
    product,
    lot,
    material,
    arrival_state,
    form: form.value,
    ...sizes,
    due_at: dueAt.value.toISOString(),
    request_key: requestKey,
    tests: wanted.value.map((one) => ({
      method: one.method.id,
      parameters: Object.fromEntries(
        Object.entries(one.parameters).filter(([, value]) => value !== undefined),
      ),
      limits: rowsOf(one.method)
        .map((row) => limitFrom(row.property, row.direction, one.limits[row.key]))
        .filter((limit) => limit !== null),
    })),
  }
  const done = await act(async () => {
    made = await ask(client.POST('/api/jobs', { body }))
  })
  if (done && made) {
    const job = made as JobView
    await router.push(placeOf(job.next_place, job.id))
  }
}
</script>

<template>
  <form class="counter" @submit.prevent="receive">
    <header>
      <h1>Receive a sample</h1>
      <button class="act main" :disabled="busy">
        {{ busy ? 'Writing it down …' : 'Receive it' }} <kbd>Enter</kbd>
      </button>
    </header>
    <RefusalNote v-model="refused" />
    <div class="halves">
      <section>
        <h2>What arrived</h2>
        <div class="pair">
          <v-text-field
            v-model="sample.client"
            label="Client"
            :error-messages="need(sample.client)"
            autofocus
          />
          <v-text-field v-model="sample.lot" label="Lot" :error-messages="need(sample.lot)" />
        </div>
        <v-text-field
          v-model="sample.product"
          label="Product"
          :error-messages="need(sample.product)"
        />
        <v-text-field
          v-model="sample.material"
          label="Material, with mass if known"
          :error-messages="need(sample.material)"
        />
        <v-text-field v-model="sample.arrival_state" label="State on arrival" />
        <h2>What is asked for</h2>
        <div v-for="(one, place) in wanted" :key="one.key" class="test">
          <header>
            <strong>{{ one.method.title }}</strong>
            <span class="mono small">{{ one.method.id }}</span>
            <span class="quiet small">
              <template v-if="one.method.by_document">specimens come with the document</template>
              <template v-else
                >{{ one.method.specimens_per_direction }} +
                {{ one.method.spares_per_direction }} spare{{
                  one.method.directions.length ? ' each way' : ''
                }}, {{ one.method.size_words }}</template
              >
            </span>
            <button type="button" class="plain small" @click="wanted.splice(place, 1)">
              take out
            </button>
          </header>
          <div v-if="one.method.needed.length" class="limits">
            <template v-for="name in one.method.needed" :key="name">
              <SchemaField
                v-if="schemaOf(one.method.id).properties?.[name]"
                v-model="one.parameters[name]"
                :name="name"
                :schema="schemaOf(one.method.id).properties![name]!"
                :root="schemaOf(one.method.id)"
                required
              />
            </template>
          </div>
          <div class="limits">
            <LimitField
              v-for="row in rowsOf(one.method)"
              :key="row.key"
              v-model="one.limits[row.key]!"
              :label="row.label"
              :statistic="row.statistic"
              :unit="row.unit"
            />
          </div>
        </div>
        <v-autocomplete
          :key="wanted.length"
          :model-value="picked"
          :items="choices"
          :label="wanted.length ? 'Another test' : 'Test, by what it does or its number'"
          :error-messages="tried && !wanted.length ? 'a test is needed' : undefined"
          @update:model-value="add"
        />
        <p class="quiet small">
          The last digit of a limit says to where figures are rounded: 25 and 25.0 differ. Other
          limits are set on the job's page.
        </p>
      </section>
      <section>
        <h2>What it is</h2>
        <div class="forms" role="radiogroup" aria-label="Form of the sample">
          <button
            v-for="one in FORMS"
            :key="one.value"
            type="button"
            class="act"
            role="radio"
            :aria-checked="form === one.value"
            :class="{ on: form === one.value }"
            @click="form = one.value"
          >
            {{ one.words }}
          </button>
        </div>
        <v-text-field
          v-if="form === 'granules'"
          v-model="sample.mass_g"
          class="mono"
          label="How much"
          suffix="g"
          inputmode="decimal"
          :error-messages="need(sample.mass_g)"
        />
        <v-text-field
          v-else-if="form !== 'sheet'"
          v-model="sample.count"
          class="mono"
          label="How many"
          inputmode="numeric"
          :error-messages="need(sample.count)"
        />
        <p v-if="form !== 'sheet'" class="quiet small">
          They come ready: nothing is laid out or cut, and they are hung and tested as they are.
        </p>
        <div v-if="form === 'sheet'" class="pair">
          <v-text-field
            v-model="sample.width_mm"
            class="mono"
            label="Across the roll"
            suffix="mm"
            inputmode="decimal"
          />
          <v-text-field
            v-model="sample.length_mm"
            class="mono"
            label="Along the roll"
            suffix="mm"
            inputmode="decimal"
          />
        </div>
        <figure v-if="form === 'sheet' && drawn">
          <svg width="380" height="360" viewBox="-50 -20 380 360" aria-hidden="true">
            <rect :width="drawn[0]" :height="drawn[1]" class="cloth" />
            <path :d="`M0 ${drawn[1]! + 12}h${drawn[0]}`" class="measure" />
            <text :x="drawn[0]! / 2" :y="drawn[1]! + 30" text-anchor="middle">
              {{ sample.width_mm }} mm, weft
            </text>
            <path :d="`M-12 0v${drawn[1]}`" class="measure" />
            <text
              :transform="`rotate(-90 -22 ${drawn[1]! / 2}) translate(-22 ${drawn[1]! / 2})`"
              text-anchor="middle"
            >
              {{ sample.length_mm }} mm, warp
            </text>
          </svg>
        </figure>
        <p v-if="needs && !needs.fits" class="too-small" role="alert">
          {{ needs.words }}.
          <template v-if="needs.fitting.length"
            >What fits: {{ needs.fitting.join(', ') }}.</template
          >
        </p>
        <p v-else-if="needs?.length_needed_mm" class="quiet" :class="{ looking }">
          These tests need
          <span class="mono">{{ Math.ceil(needs.length_needed_mm) }} mm</span> of the roll, where
          nothing is creased or stained.
        </p>
        <v-text-field
          v-model="sample.due"
          label="Due"
          :error-messages="dueAt ? undefined : 'expected a day and a time, as 20 Nov 2026, 16:00'"
        />
      </section>
    </div>
  </form>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.halves {
  display: grid;
  grid-template-columns: minmax(0, 1.25fr) minmax(340px, 1fr);
  gap: 0 56px;
}

section {
  display: grid;
  gap: 14px;
  align-content: start;
}

h2 {
  margin-top: 12px;
}

.forms {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
}

.forms .on {
  color: var(--ground);
  background: var(--ink);
}

.pair,
.limits {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}

.test {
  display: grid;
  gap: 10px;
  padding: 10px 14px 14px;
  border: 1.5px solid var(--ink-3);
  border-radius: 7px;
}

.test header {
  flex-wrap: wrap;
  gap: 2px 14px;
  justify-content: start;
}

.test .limits {
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
}

figure {
  margin: 0;
}

.cloth {
  fill: var(--sunk);
  stroke: var(--ink);
  stroke-width: 1.5;
}

figure svg {
  max-width: 100%;
}

.too-small {
  padding: 9px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

.looking {
  opacity: 0.5;
}

.measure {
  stroke: var(--ink-2);
}

text {
  fill: var(--ink-2);
  font: 14px var(--mono);
}

@media (max-width: 1100px) {
  .halves {
    grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
    gap: 0 30px;
  }
}

@media (max-width: 860px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
