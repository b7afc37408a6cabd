<script setup lang="ts">
import DueField from '@/jobs/DueField.vue'
import SampleForm from '@/jobs/SampleForm.vue'
import { emptySample, missingOf, sizesOf } from '@/jobs/typedSample'
import { variantsOf, type TypedVariant } from '@/jobs/variants'
import VariantsField from '@/jobs/VariantsField.vue'
import PromiseLine from '@/jobs/PromiseLine.vue'
import ProductTable from '@/jobs/ProductTable.vue'
import WantedTest from '@/jobs/WantedTest.vue'
import { rowsOf, wantedOf, type Wanted } from '@/jobs/wanted'
import { vFocus } from '@/ui/focus'
import { figureFrom } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask, client, type JobView, type MethodLine, type Schemas } from '@/api/client'
import RefusalNote from '@/ui/RefusalNote.vue'
import { useHowMuch } from '@/jobs/howMuch'
import { kindsFor, limitFrom, type LimitTyped } from '@/jobs/limits'
import { useAct, useMethods } from '@/api/queries'
import { momentFrom } from '@/ui/words'
import { placeOf } from '@/app/router'

/** The counter: what arrived, what is asked of it, and by which limits. */
const route = useRoute()
const router = useRouter()
const methods = useMethods()
const { act, refused, busy } = useAct()
const requestKey = crypto.randomUUID()

const sample = reactive(emptySample(String(route.query.width ?? '1480')))
const form = ref<Schemas['SampleRequest']['form']>('sheet')
const tried = ref(false)
const picked = ref<string | null>(null)

const wanted = ref<Wanted[]>([])
let keys = 0
/** What fits the form that arrived comes first; the others stand below, each with the reason. */
const choices = computed(() =>
  [...(methods.data.value ?? [])]
    .sort((a, b) => Number(fits(b)) - Number(fits(a)))
    .map((method) => ({
      value: method.id,
      title: fits(method)
        ? `${method.title}, ${method.id}`
        : `${method.title}, ${method.id}: only for ${method.forms.join(' or ')}`,
      props: { disabled: !fits(method) },
    })),
)
function fits(method: MethodLine) {
  return method.forms.includes(form.value)
}

function add(id: string | null) {
  const method = methods.data.value?.find((method) => method.id === id)
  if (!method) return
  const limits: Record<string, LimitTyped> = {}
  for (const row of rowsOf(method))
    limits[row.key] = { kind: kindsFor(row.statistic, row.unit)[0]!, first: '', second: '' }
  wanted.value.push({ key: (keys += 1), method, parameters: {}, limits })
  picked.value = null
}

const COMPARISONS = [
  { value: null, title: 'lab default' },
  { value: 'as-rounded', title: 'rounded to the digit of the limit' },
  { value: 'unrounded', title: 'unrounded' },
]
const counter = useQuery({
  queryKey: ['counter'],
  queryFn: () => ask(client.GET('/api/counter')),
})
/** The product whose specification fills the rest in. */
const comparison = ref<Schemas['SampleRequest']['comparison']>(null)
const labels = ref<Schemas['SampleRequest']['label_school']>(null)
const specified = ref<Schemas['ProductView'] | null>(null)
const productChoices = computed(() =>
  (counter.data.value?.products ?? []).map((each) => ({
    value: each,
    title: `${each.name}, ${each.client}, revision ${each.revision}`,
  })),
)
watch(specified, (chosen) => chosen && fillIn(chosen))
function fillIn(chosen: Schemas['JobSpecification'] | Schemas['ProductView']) {
  const own = chosen.specification as Schemas['Specification']
  Object.assign(sample, { client: chosen.client, product: chosen.name, material: own.material })
  form.value = own.form
  comparison.value = own.comparison ?? null
  labels.value = own.label_school ?? null
  wanted.value = own.tests.flatMap((test) => {
    const method = methods.data.value?.find((method) => method.id === test.method)
    return method ? [wantedOf(test, method, (keys += 1))] : []
  })
}
/** All that another job asks for, but for its lot and its day. */
async function copy(job_id: number) {
  await act(async () =>
    fillIn(
      await ask(client.GET('/api/jobs/{job_id}/specification', { params: { path: { job_id } } })),
    ),
  )
}
/** A scanner types a lot and ends with Enter: a lot that was here before brings what it was. */
async function scanned() {
  const lot = sample.lot.trim()
  const job = counter.data.value?.lots[lot]
  if (job && !sample.client && !sample.product) await copy(job)
}
watch(
  methods.data,
  (known) => {
    if (known && !wanted.value.length)
      String(route.query.tests ?? '')
        .split(',')
        .forEach(add)
    if (known && !wanted.value.length && route.query.like) void copy(Number(route.query.like))
  },
  { immediate: true },
)

const width = computed(() => figureFrom(sample.width_mm))
const length = computed(() => figureFrom(sample.length_mm))
const asked = computed(() =>
  form.value === 'sheet' &&
  wanted.value.some((asked) => asked.method.is_cut) &&
  width.value > 0 &&
  length.value > 0
    ? {
        width_mm: width.value,
        length_mm: length.value,
        seconds: 0,
        tests: wanted.value.map((asked) => ({
          method: asked.method.id,
          parameters: asked.parameters,
          specimens_wanted: null,
        })),
      }
    : null,
)
const { howMuch: needs, looking } = useHowMuch(asked)
const missing = computed(() => missingOf(sample, form.value))
const damp = ref(false)
const variants = ref<TypedVariant[]>([])
const reports = ref<'one' | 'each'>('each')
const dueAt = computed(() => momentFrom(sample.due))
const need = (value: string) => (tried.value && !value.trim() ? 'required' : undefined)

async function receive() {
  tried.value = true
  if (missing.value.length || !wanted.value.length || !dueAt.value) return
  let made: JobView | null = null
  const { client: by, product, lot, material, arrival_state } = sample
  const body = {
    client: by,
    product,
    lot,
    material,
    arrival_state,
    damp: damp.value,
    form: form.value,
    ...sizesOf(sample, form.value),
    due_at: dueAt.value.toISOString(),
    request_key: requestKey,
    comparison: comparison.value,
    label_school: labels.value,
    product_revision: specified.value?.revision ?? null,
    variants: variantsOf(
      variants.value,
      form.value,
      wanted.value.map((asked) => asked.key),
    ),
    reports: reports.value,
    tests: wanted.value.map((asked) => ({
      method: asked.method.id,
      parameters: Object.fromEntries(
        Object.entries(asked.parameters).filter(([, value]) => value !== undefined),
      ),
      limits:
        asked.specified ??
        rowsOf(asked.method)
          .map((row) => limitFrom(row.property, row.direction, asked.limits[row.key]))
          .filter((limit) => limit !== null),
    })),
  }
  const done = await act(async () => {
    made = await ask(client.POST('/api/jobs', { body }))
  })
  if (done && made) {
    const job = made as JobView
    await router.push(job.study_id ? `/studies/${job.study_id}` : placeOf(job.next_place, job.id))
  }
}
</script>

<template>
  <form class="counter" @submit.prevent="receive">
    <header>
      <h1>Receive sample</h1>
      <ActButton kind="main" :disabled="busy">
        {{ busy ? 'Saving …' : 'Receive sample' }} <kbd>Enter</kbd>
      </ActButton>
    </header>
    <RefusalNote v-model="refused" />
    <datalist id="known-clients">
      <option v-for="each in counter.data.value?.clients ?? []" :key="each" :value="each" />
    </datalist>
    <datalist id="lots">
      <option v-for="(_, lot) in counter.data.value?.lots ?? {}" :key="lot" :value="lot" />
    </datalist>
    <datalist id="known-materials">
      <option v-for="each in counter.data.value?.materials ?? []" :key="each" :value="each" />
    </datalist>
    <div class="halves">
      <section>
        <h2>
          Sample
          <button
            v-if="counter.data.value?.last_job_id"
            type="button"
            class="plain link small"
            @click="copy(counter.data.value.last_job_id)"
          >
            copy from last job
          </button>
        </h2>
        <v-autocomplete
          v-if="productChoices.length"
          v-model="specified"
          :items="productChoices"
          label="Product specification (optional)"
          clearable
        />
        <p v-if="specified?.gone.length" class="too-small" role="alert">
          The specification names {{ specified.gone.join(', ') }}, which no longer exists.
        </p>
        <div class="pair">
          <v-text-field
            v-model="sample.client"
            v-focus
            label="Client"
            list="known-clients"
            :error-messages="need(sample.client)"
          />
          <v-text-field
            v-model="sample.lot"
            label="Lot"
            list="lots"
            :error-messages="need(sample.lot)"
            @keydown.enter.prevent="scanned"
          />
        </div>
        <v-text-field
          v-model="sample.product"
          label="Product"
          :error-messages="need(sample.product)"
        />
        <v-text-field
          v-model="sample.material"
          label="Material, with mass if known"
          list="known-materials"
          :error-messages="need(sample.material)"
        />
        <v-text-field v-model="sample.arrival_state" label="State on arrival" />
        <label class="damp"><input v-model="damp" type="checkbox" /> Arrived damp or wet</label>
        <h2>Requested tests</h2>
        <WantedTest
          v-for="(test, place) in wanted"
          :key="test.key"
          :wanted="test"
          :materials="counter.data.value?.melt_materials ?? []"
          @out="wanted.splice(place, 1)"
        />
        <v-autocomplete
          :key="wanted.length"
          :model-value="picked"
          :items="choices"
          :label="wanted.length ? 'Add test' : 'Test, by name or number'"
          :error-messages="tried && !wanted.length ? 'choose at least one test' : undefined"
          @update:model-value="add"
        />
        <v-select
          v-if="wanted.length"
          v-model="comparison"
          :items="COMPARISONS"
          label="Comparison with limits"
        />
        <p class="quiet small">
          Results are rounded to the last digit of the limit: 25 and 25.0 differ. Set other limits
          on the page of the job.
        </p>
      </section>
      <section>
        <SampleForm v-model:form="form" v-model:sample="sample" :tried="tried" />
        <VariantsField
          v-model:variants="variants"
          v-model:reports="reports"
          :form="form"
          :wanted="wanted"
        />
        <p v-if="needs && !needs.fits" class="too-small" role="alert">
          {{ needs.words }}.
          <template v-if="needs.fitting.length"
            >These fit: {{ needs.fitting.join(', ') }}.</template
          >
        </p>
        <p v-else-if="needs?.length_needed_mm" class="quiet" :class="{ looking }">
          These tests need
          <span class="mono">{{ Math.ceil(needs.length_needed_mm) }} mm</span> of the roll without
          creases or stains.
        </p>
        <p v-for="line in needs?.says ?? []" :key="line" class="quiet small">{{ line }}</p>
        <DueField v-model="sample.due" />
        <PromiseLine :form="form" :wanted="wanted" />
        <ProductTable />
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

.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}

.too-small {
  padding: 9px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

.looking {
  opacity: 0.5;
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
