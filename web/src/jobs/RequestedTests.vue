<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref } from 'vue'
import type { MethodLine, Schemas } from '@/api/client'
import RequestedTest from '@/jobs/RequestedTest.vue'
import { newlyRequested, type Requested } from '@/jobs/requested'

/** The tests that are requested at the counter, with their limits and how results are compared. */
const requested = defineModel<Requested[]>('requested', { required: true })
const comparison = defineModel<Schemas['SampleRequest']['comparison']>('comparison', {
  required: true,
})
const props = defineProps<{
  form: Schemas['SampleRequest']['form']
  methods: MethodLine[]
  materials: Schemas['KnownAtCounter']['melt_materials']
  tried: boolean
}>()
const picked = ref<string | null>(null)
const COMPARISONS = [
  { value: null, title: t('jobs.lab-default') },
  { value: 'as-rounded', title: t('jobs.rounded-to-the-digit-of-the-limit') },
  { value: 'unrounded', title: 'unrounded' },
]

/** What fits the form that arrived comes first; the others stand below, each with the reason. */
const choices = computed(() =>
  [...props.methods]
    .sort((a, b) => Number(fits(b)) - Number(fits(a)))
    .map((method) => ({
      value: method.id,
      title: fits(method)
        ? `${method.title}, ${method.id}`
        : t('jobs.only-for', {
            title: method.title,
            id: method.id,
            forms: method.forms.join(t('jobs.or-2')),
          }),
      props: { disabled: !fits(method) },
    })),
)
function fits(method: MethodLine) {
  return method.forms.includes(props.form)
}
function add(id: string | null) {
  const method = props.methods.find((method) => method.id === id)
  if (method) requested.value.push(newlyRequested(method))
  picked.value = null
}
</script>

<template>
  <h2>{{ t('jobs.requested-tests') }}</h2>
  <RequestedTest
    v-for="(test, place) in requested"
    :key="test.key"
    :requested="test"
    :materials="materials ?? []"
    @out="requested.splice(place, 1)"
  />
  <v-autocomplete
    :key="requested.length"
    :model-value="picked"
    :items="choices"
    :label="requested.length ? t('jobs.add-test') : t('jobs.test-by-name-or-number')"
    :error-messages="tried && !requested.length ? t('jobs.choose-at-least-one-test') : undefined"
    @update:model-value="add"
  />
  <v-select
    v-if="requested.length"
    v-model="comparison"
    :items="COMPARISONS"
    :label="t('jobs.comparison-with-limits')"
  />
  <p class="quiet small">
    {{ t('jobs.results-are-rounded-to-the-last-digit-2') }}
  </p>
</template>

<style scoped>
h2 {
  margin-top: 12px;
}
</style>
