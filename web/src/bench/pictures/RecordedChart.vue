<script setup lang="ts">
import { computed } from 'vue'
import type { BenchView } from '@/bench/bench'
import type { Recorded } from '@/bench/pictures/recorded'
import TraceChart from '@/ui/TraceChart.vue'

/** The curve that grows, or the one that was recorded; what is wrong with its line is said on it. */
const props = defineProps<{ view: BenchView; recorded: Recorded }>()
const { x, y, under, marks, isLive, trouble } = props.recorded
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
    says: odd.says,
    points: [[odd.at_x, odd.at_y]] as [number, number][],
    names: [],
  })),
])
/** As far as it is expected to go; what goes farther is fitted. */
const end = computed(() => {
  const farthest = Math.max(...[{ x: x.value }, ...under.value].map((curve) => curve.x.at(-1) ?? 0))
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
    />
    <p v-if="x.length === 0 && !isLive" class="before quiet">
      The curve of {{ view.label }} grows here.
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
