<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { chartOf, type Check } from '@/instruments/instruments'
import { coordinate } from '@/ui/numbers'

/** A reference check as a chart: its readings in their order between the limits. */
const props = defineProps<{ check: Check }>()
const [WIDE, HIGH] = [560, 96]
const chart = computed(() => chartOf(props.check, WIDE, HIGH))
const line = computed(() =>
  chart.value.points.map((point) => `${coordinate(point.x)},${coordinate(point.y)}`).join(' '),
)
</script>

<template>
  <svg
    :viewBox="`0 0 ${WIDE} ${HIGH}`"
    role="img"
    :aria-label="t('instruments.its-readings', { title: check.title })"
  >
    <rect
      class="inside"
      x="0"
      :width="WIDE"
      :y="chart.warn[0]"
      :height="chart.warn[1] - chart.warn[0]"
    />
    <path :d="`M0 ${HIGH / 2}H${WIDE}`" class="target" />
    <path :d="`M0 ${chart.limit[0]}H${WIDE}M0 ${chart.limit[1]}H${WIDE}`" class="limit" />
    <polyline :points="line" />
    <circle
      v-for="(point, place) in chart.points"
      :key="place"
      :cx="coordinate(point.x)"
      :cy="coordinate(point.y)"
      :class="point.verdict"
      r="4"
    >
      <title>{{ point.text }}</title>
    </circle>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  max-width: 640px;
}

.inside {
  fill: var(--sunk);
}

path {
  fill: none;
  vector-effect: non-scaling-stroke;
}

.target {
  stroke: var(--ink-3);
}

.limit {
  stroke: var(--brick);
  stroke-dasharray: 7 5;
}

polyline {
  fill: none;
  stroke: var(--ink-3);
}

circle {
  fill: var(--blue);
}

circle.watch {
  fill: var(--ochre);
}

circle.out {
  fill: var(--brick);
}
</style>
