<script setup lang="ts">
import { t } from '@/ui/words'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask, client } from '@/api/client'
import TrendChart from '@/office/TrendChart.vue'
import {
  feetOf,
  PLOT,
  RANGE_HIGH,
  rangesChart,
  signalsOf,
  valuesChart,
  type Rule,
} from '@/office/trends'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import RuledTable from '@/ui/RuledTable.vue'
import StateNote from '@/ui/StateNote.vue'
import { fixed } from '@/ui/numbers'

/** A property of a product over its lots: does it drift, and does it stay inside its requirement. */
const route = useRoute()
const router = useRouter()
const word = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const products = useQuery({
  queryKey: ['trend-products'],
  queryFn: () => ask(client.GET('/api/trends/products')),
})
const keyOf = (each: { client: string; product: string }) => `${each.product}\n${each.client}`
const product = ref(word('product') ? `${word('product')}\n${word('client')}` : '')
const series = ref(word('series'))
const base = ref(Number(word('base')) || null)
const off = ref(new Set<Rule>())
watch(
  () => products.data.value,
  (all) => {
    if (!product.value && all?.[0]) product.value = keyOf(all[0])
  },
  { immediate: true },
)
watch(product, () => {
  series.value = ''
  base.value = null
})
const asked = computed(() => {
  const [name = '', ofClient = ''] = product.value.split('\n')
  return {
    product: name,
    client: ofClient,
    ...(series.value && { series: series.value }),
    ...(base.value && { base: base.value }),
  }
})
const query = useQuery({
  queryKey: ['trends', asked],
  queryFn: () => ask(client.GET('/api/trends', { params: { query: asked.value } })),
  enabled: computed(() => product.value !== ''),
  placeholderData: keepPreviousData,
})
watch(asked, (words) => {
  void router.replace({
    path: route.path,
    query: Object.fromEntries(Object.entries(words).map(([k, v]) => [k, `${v}`])),
  })
})
const trend = computed(() => query.data.value)
const values = computed(() => trend.value && valuesChart(trend.value, off.value))
const ranges = computed(() => trend.value && rangesChart(trend.value))
const words = computed(() =>
  Object.fromEntries((trend.value?.rules ?? []).map(({ rule, text }) => [rule, text])),
)
const signals = computed(() =>
  (trend.value?.points ?? [])
    .map((point) => ({ point, rules: signalsOf(point, off.value) }))
    .filter(({ rules }) => rules.length),
)
const choices = computed(() =>
  (products.data.value ?? []).map((each) => ({
    value: keyOf(each),
    title: t('office.product-with-lots', { ...each }),
  })),
)
const seriesChoices = computed(() =>
  (trend.value?.series ?? []).map((each) => ({ value: each.key, title: each.title })),
)
const bases = computed(() => [
  { value: null, title: t('office.all-lots') },
  ...(trend.value?.points ?? [])
    .map((_, place) => place + 1)
    .filter((count) => count >= 2)
    .map((count) => ({ value: count, title: t('office.the-first-lots', { count }) })),
])
const table = computed(
  () =>
    `/api/trends.xlsx?${new URLSearchParams(Object.entries(asked.value).map(([k, v]) => [k, `${v}`]))}`,
)
function switched(rule: Rule, isOn: boolean) {
  const next = new Set(off.value)
  if (isOn) next.delete(rule)
  else next.add(rule)
  off.value = next
}
const open = (jobId: number) => router.push(`/jobs/${jobId}`)
</script>

<template>
  <header>
    <h1>{{ t('office.trends') }}</h1>
    <template v-if="choices.length">
      <v-autocomplete
        v-model="product"
        class="wide"
        density="compact"
        auto-select-first
        :items="choices"
        :label="t('office.product')"
      />
      <v-select
        class="wide"
        density="compact"
        :items="seriesChoices"
        :model-value="series || trend?.chosen?.key"
        :label="t('office.property')"
        @update:model-value="series = $event"
      />
      <v-select
        v-model="base"
        class="base"
        density="compact"
        :items="bases"
        :label="t('office.limits-from')"
      />
      <ActButton v-if="trend?.points.length" :href="table">{{
        t('office.as-a-workbook')
      }}</ActButton>
    </template>
  </header>
  <FromRecord v-if="!products.data.value" :query="products" />
  <StateNote
    v-else-if="!choices.length"
    :title="t('office.no-lots-yet')"
    :text="t('office.no-lots-yet-text')"
  />
  <FromRecord v-else-if="!trend || !values || !ranges" :query="query" />
  <StateNote
    v-else-if="!trend.chosen"
    :title="t('office.nothing-to-chart')"
    :text="t('office.nothing-to-chart-text')"
  />
  <template v-else>
    <p v-if="trend.problem" class="note" role="status">{{ trend.problem }}</p>
    <h2>{{ t('office.mean-of-each-lot', { unit: trend.chosen.unit }) }}</h2>
    <TrendChart :chart="values" :high="PLOT.high" :name="trend.chosen.title" @open="open" />
    <h2>{{ t('office.moving-range', { unit: trend.chosen.unit }) }}</h2>
    <TrendChart
      :chart="ranges"
      :high="RANGE_HIGH"
      :feet="feetOf(trend)"
      :name="t('office.moving-range', { unit: trend.chosen.unit })"
      @open="open"
    />
    <p class="small quiet">{{ t('office.shaded-is-the-base', { count: trend.base }) }}</p>
    <div class="below">
      <section>
        <h2>{{ t('office.signals') }}</h2>
        <p v-if="!signals.length" class="quiet">{{ t('office.no-signal') }}</p>
        <RuledTable v-else dense>
          <tbody>
            <tr v-for="{ point, rules } in signals" :key="point.job_id">
              <td class="of">
                <router-link class="mono" :to="`/jobs/${point.job_id}`">{{
                  point.number
                }}</router-link>
              </td>
              <td class="of">{{ point.lot }}</td>
              <td class="mono right">{{ point.text }}</td>
              <td>{{ rules.map((rule) => words[rule]).join('; ') }}</td>
            </tr>
          </tbody>
        </RuledTable>
        <template v-if="trend.left_out.length">
          <h2>{{ t('office.left-out') }}</h2>
          <RuledTable dense>
            <tbody>
              <tr v-for="each in trend.left_out" :key="`${each.job_id} ${each.reason}`">
                <td class="of">
                  <router-link class="mono" :to="`/jobs/${each.job_id}`">{{
                    each.number
                  }}</router-link>
                </td>
                <td class="of">{{ each.lot }}</td>
                <td>{{ each.reason }}</td>
              </tr>
            </tbody>
          </RuledTable>
        </template>
      </section>
      <section>
        <h2>{{ t('office.capability') }}</h2>
        <RuledTable v-if="trend.indices.length" dense>
          <thead>
            <tr>
              <th>{{ t('office.index') }}</th>
              <th class="right">{{ t('office.value') }}</th>
              <th class="right">{{ t('office.interval-95') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="index in trend.indices" :key="index.name">
              <td>{{ index.name }}</td>
              <td class="mono right">{{ fixed(index.value, 2) }}</td>
              <td class="mono right">
                <template v-if="index.low != null && index.high != null">{{
                  t('office.from-to', { low: fixed(index.low, 2), high: fixed(index.high, 2) })
                }}</template>
                <template v-else>–</template>
              </td>
            </tr>
          </tbody>
        </RuledTable>
        <p v-if="trend.capability_remark" class="quiet">{{ trend.capability_remark }}</p>
        <h2>{{ t('office.run-rules') }}</h2>
        <v-checkbox
          v-for="{ rule, text } in trend.rules"
          :key="rule"
          density="compact"
          hide-details
          :label="text"
          :model-value="!off.has(rule)"
          @update:model-value="switched(rule, $event === true)"
        />
      </section>
    </div>
  </template>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
  align-items: center;
  margin-bottom: 14px;
}

.wide {
  flex: 1 1 190px;
  max-width: 380px;
}

.base {
  flex: 0 0 170px;
}

h2 {
  margin: 10px 0 6px;
  font-size: 15.5px;
}

.of {
  white-space: nowrap;
}

.note {
  padding: 6px 12px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

.below {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 380px);
  gap: 10px 40px;
}

@media (max-width: 900px) {
  .below {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
