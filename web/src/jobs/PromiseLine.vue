<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import type { Requested } from '@/jobs/requested'
import { moment } from '@/ui/dates'

/** By when it can be tested, from the plan as it stands: what a client can be told at the counter. */
const props = defineProps<{ form: Schemas['SampleRequest']['form']; requested: Requested[] }>()
const WAIT_MS = 700
const asking = computed(() => ({
  form: props.form,
  tests: props.requested.map((requested) => ({
    method: requested.method.id,
    parameters: Object.fromEntries(
      Object.entries(requested.parameters).filter(([, value]) => value !== undefined),
    ),
  })),
}))
const settled = refDebounced(
  computed(() => JSON.stringify(asking.value)),
  WAIT_MS,
)
const promise = useQuery({
  queryKey: ['promise', settled],
  queryFn: () =>
    ask(
      client.POST('/api/schedule/promise', {
        body: JSON.parse(settled.value) as typeof asking.value,
      }),
    ),
  enabled: computed(
    () => props.requested.length > 0 && settled.value === JSON.stringify(asking.value),
  ),
  staleTime: 60_000,
  retry: false,
})
</script>

<template>
  <p v-if="requested.length && promise.data.value" class="quiet" role="status">
    <template v-if="promise.data.value.tested_by"
      >Tests can be completed by <b>{{ moment(promise.data.value.tested_by) }}</b><template
        v-if="promise.data.value.released_by"
      >
        and the report released by <b>{{ moment(promise.data.value.released_by) }}</b></template
      >, {{ promise.data.value.text }}.</template
    >
    <template v-else>No date can be promised: {{ promise.data.value.text }}</template>
  </p>
</template>
