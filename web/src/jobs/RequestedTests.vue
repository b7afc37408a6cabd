<script setup lang="ts">
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
  { value: null, title: 'lab default' },
  { value: 'as-rounded', title: 'rounded to the digit of the limit' },
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
        : `${method.title}, ${method.id}: only for ${method.forms.join(' or ')}`,
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
  <h2>Requested tests</h2>
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
    :label="requested.length ? 'Add test' : 'Test, by name or number'"
    :error-messages="tried && !requested.length ? 'Choose at least one test.' : undefined"
    @update:model-value="add"
  />
  <v-select
    v-if="requested.length"
    v-model="comparison"
    :items="COMPARISONS"
    label="Comparison with limits"
  />
  <p class="quiet small">
    Results are rounded to the last digit of the limit: 25 and 25.0 differ. Set other limits on the
    page of the job.
  </p>
</template>

<style scoped>
h2 {
  margin-top: 12px;
}
</style>
