<script setup lang="ts">
import type { PlacedSpecimen } from '@/api/client'
import type { Spot } from '@/cutting/areas'
import { fixed } from '@/ui/numbers'

/** How far the chosen specimen lies from the left selvedge and from the cut end. */
defineProps<{
  specimen: PlacedSpecimen
  at: Spot
  up: (y: number) => number
  unit: number
  shownMm: number
}>()

const FIGURE_PX = 15
</script>

<template>
  <g class="distances">
    <path
      :d="`M0 ${up(at.y)}H${at.x - specimen.across_mm / 2}M${at.x} ${shownMm}V${up(at.y - specimen.along_mm / 2)}`"
    />
    <text
      :x="8 * unit"
      :y="up(at.y) - 6 * unit"
      :font-size="FIGURE_PX * unit"
      :stroke-width="5 * unit"
    >
      {{ fixed(at.x - specimen.across_mm / 2, 1) }}
    </text>
    <text
      :x="at.x + 7 * unit"
      :y="shownMm - 8 * unit"
      :font-size="FIGURE_PX * unit"
      :stroke-width="5 * unit"
    >
      {{ fixed(at.y - specimen.along_mm / 2, 1) }}
    </text>
  </g>
</template>

<style scoped>
.distances path {
  fill: none;
  stroke: var(--blue);
  stroke-width: 1.3px;
  stroke-dasharray: 3 3;
  vector-effect: non-scaling-stroke;
}

.distances text {
  fill: var(--blue);
  font-family: var(--mono);
  font-weight: 600;
  paint-order: stroke;
  stroke: var(--page);
}

.distances {
  pointer-events: none;
}
</style>
