<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import type { Wanted } from '@/jobs/wanted'
import { moment } from '@/ui/dates'

/** By when it can be tested, from the plan as it stands: what a client can be told at the counter. */
const props = defineProps<{ form: Schemas['SampleRequest']['form']; wanted: Wanted[] }>()
const WAIT_MS = 700
const asked = computed(() => ({
  form: props.form,
  tests: props.wanted.map((wanted) => ({
    method: wanted.method.id,
    parameters: Object.fromEntries(
      Object.entries(wanted.parameters).filter(([, value]) => value !== undefined),
    ),
  })),
}))
const settled = refDebounced(
  computed(() => JSON.stringify(asked.value)),
  WAIT_MS,
)
const promise = useQuery({
  queryKey: ['promise', settled],
  queryFn: () =>
    ask(
      client.POST('/api/schedule/promise', {
        body: JSON.parse(settled.value) as typeof asked.value,
      }),
    ),
  enabled: computed(() => props.wanted.length > 0 && settled.value === JSON.stringify(asked.value)),
  staleTime: 60_000,
  retry: false,
})
</script>

<template>
  <p v-if="wanted.length && promise.data.value" class="quiet" role="status">
    <template v-if="promise.data.value.tested_by"
      >Tests can be completed by <b>{{ moment(promise.data.value.tested_by) }}</b><template
        v-if="promise.data.value.released_by"
      >
        and the report released by <b>{{ moment(promise.data.value.released_by) }}</b></template
      >, {{ promise.data.value.says }}.</template
    >
    <template v-else>No date can be promised: {{ promise.data.value.says }}</template>
  </p>
</template>
