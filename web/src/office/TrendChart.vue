<script setup lang="ts">
import { computed } from 'vue'
import { PLOT, type Chart, type Foot } from '@/office/trends'
import { coordinate } from '@/ui/numbers'

/** Lots from left to right between their lines; a press on one opens its job. */
const props = defineProps<{ chart: Chart; high: number; name: string; feet?: Foot[] }>()
defineEmits<{ open: [jobId: number] }>()
const path = computed(() =>
  props.chart.spots.map(({ x, y }) => `${coordinate(x)},${coordinate(y)}`).join(' '),
)
/** Labels of lines that lie close together are set apart. */
const LINE_PX = 17
const FOOT_PX = 26
const labels = computed(() => {
  let last = -Infinity
  return [...props.chart.lines]
    .sort((a, b) => a.y - b.y)
    .map((line) => {
      last = Math.max(line.y + 5, last + LINE_PX)
      return { ...line, at: last }
    })
})
const end = PLOT.wide - PLOT.right
</script>

<template>
  <svg
    :viewBox="`0 0 ${PLOT.wide + 70} ${high + (feet ? FOOT_PX : 0)}`"
    role="group"
    :aria-label="name"
  >
    <rect class="base" x="0" y="0" :width="chart.baseEnd" :height="high" />
    <g v-for="line in labels" :key="line.label" :class="line.kind">
      <path :d="`M0 ${coordinate(line.y)}H${end}`" />
      <text :x="end + 6" :y="line.at">{{ line.label }}</text>
    </g>
    <text
      v-for="foot in feet"
      :key="foot.x"
      :x="coordinate(foot.x)"
      :y="high + 19"
      text-anchor="middle"
    >
      {{ foot.text }}
    </text>
    <polyline :points="path" />
    <a
      v-for="spot in chart.spots"
      :key="spot.jobId"
      :href="`/jobs/${spot.jobId}`"
      :aria-label="spot.text"
      @click.prevent="$emit('open', spot.jobId)"
    >
      <circle class="target" :cx="coordinate(spot.x)" :cy="coordinate(spot.y)" r="13" />
      <path
        v-if="spot.isSignal"
        class="signal"
        :d="`M${coordinate(spot.x)} ${coordinate(spot.y - 8)}l8 8l-8 8l-8 -8z`"
      />
      <circle v-else class="spot" :cx="coordinate(spot.x)" :cy="coordinate(spot.y)" r="5" />
      <title>{{ spot.text }}</title>
    </a>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
}

.base {
  fill: var(--sunk);
}

path,
polyline {
  fill: none;
  vector-effect: non-scaling-stroke;
}

polyline {
  stroke: var(--ink-3);
}

text {
  fill: var(--ink-2);
  font: 400 14px/1 var(--text);
}

.centre path {
  stroke: var(--ink-2);
}

.limit path {
  stroke: var(--ink-2);
  stroke-dasharray: 7 5;
}

.required path {
  stroke: var(--brick);
  stroke-width: 2;
}

.required text {
  fill: var(--brick);
}

.target {
  fill: transparent;
}

.spot {
  fill: var(--blue);
}

.signal {
  fill: var(--brick);
}

a:focus-visible .target {
  stroke: var(--blue);
  stroke-width: 2;
}
</style>
