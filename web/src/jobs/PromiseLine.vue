<script setup lang="ts">
import { t } from '@/ui/words'
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
    <i18n-t
      v-if="promise.data.value.tested_by"
      :keypath="
        promise.data.value.released_by
          ? 'jobs.tests-completed-and-report-released-by'
          : 'jobs.tests-can-be-completed-by'
      "
      scope="global"
      ><template #tested
        ><b>{{ moment(promise.data.value.tested_by) }}</b></template
      ><template #released
        ><b>{{ moment(promise.data.value.released_by ?? '') }}</b></template
      ><template #text>{{ promise.data.value.text }}</template></i18n-t
    >
    <template v-else>{{
      t('jobs.no-date-can-be-promised', { text: promise.data.value.text })
    }}</template>
  </p>
</template>
