<script setup lang="ts">
import { t } from '@/ui/words'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { ask, client } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import type { Recorded } from '@/bench/procedures/recorded'
import TraceChart from '@/ui/TraceChart.vue'
import ActButton from '@/ui/ActButton.vue'

/** The curve that grows, or the one that was recorded; what is wrong with its line is said on it. */
const props = defineProps<{ view: BenchView; recorded: Recorded }>()
const { x: wholeX, y: wholeY, under, marks, isLive, trouble, shown } = props.recorded
const ASK_AFTER_MS = 120

/** The part that is looked at; a long recording is asked for it again, as fine as the eye sees it. */
const range = ref<[number, number] | null>(null)
const settled = refDebounced(range, ASK_AFTER_MS)
const runId = computed(() => shown.value?.id ?? null)
watch(runId, () => (range.value = null))
const isThinned = computed(() => (shown.value?.samples ?? 0) > wholeX.value.length)
const part = useQuery({
  queryKey: ['window', runId, settled],
  queryFn: () =>
    ask(
      client.GET('/api/runs/{run_id}/window', {
        params: {
          path: { run_id: runId.value! },
          query: { low: settled.value![0], high: settled.value![1] },
        },
      }),
    ),
  enabled: computed(() => runId.value !== null && settled.value !== null && isThinned.value),
  placeholderData: keepPreviousData,
  staleTime: Infinity,
})
const fine = computed(() =>
  range.value && isThinned.value && props.view.procedure !== 'paired-trace'
    ? part.data.value
    : null,
)
const x = computed(() => fine.value?.x ?? wholeX.value)
const y = computed(() => fine.value?.y ?? wholeY.value)
const axes = computed(() => {
  const drawing = props.view.drawing!
  return {
    x_title: drawing.x.title.toLowerCase(),
    x_unit: drawing.x.unit,
    y_unit: drawing.y.unit,
  }
})
/** What looks odd is ringed where it was found, beside what was computed. */
const allMarks = computed(() => [
  ...marks.value,
  ...props.view.suspicions.map((odd) => ({
    kind: 'suspect',
    text: odd.text,
    points: [[odd.at_x, odd.at_y]] as [number, number][],
    names: [],
  })),
])
/** As far as it is expected to go; what goes farther is fitted. */
const end = computed(() => {
  const farthest = Math.max(
    ...[{ x: wholeX.value }, ...under.value].map((curve) => curve.x.at(-1) ?? 0),
  )
  return farthest > props.view.drawing!.reach ? undefined : props.view.drawing!.reach
})
</script>

<template>
  <div class="chart">
    <TraceChart
      :extension="x"
      :force="y"
      :under="under"
      :end="end"
      :axes="axes"
      :marks="allMarks"
      :live="isLive"
      :range="isLive ? undefined : range"
      @look="range = $event"
    />
    <ActButton v-if="range" kind="plain" class="small whole" @click="range = null">{{
      t('bench.the-whole-curve')
    }}</ActButton>
    <p v-if="x.length === 0 && !isLive" class="before quiet">
      {{ t('bench.the-curve-of-appears-here-during-the', { label: view.label }) }}
    </p>
    <p v-if="trouble" class="lost" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
.chart {
  position: relative;
  flex: 1;
  min-height: 220px;
  margin-top: 6px;
}

.before {
  position: absolute;
  inset: 40% 0 auto 60px;
  text-align: center;
}

.whole {
  position: absolute;
  top: 0;
  right: 12px;
  color: var(--blue);
}

.lost {
  position: absolute;
  inset: 30px 30px auto 60px;
  padding: 10px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

@media (max-width: 860px) {
  .chart {
    height: 46vh;
  }
}
</style>
