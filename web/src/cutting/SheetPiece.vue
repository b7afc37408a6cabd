<script setup lang="ts">
import { computed } from 'vue'
import type { PlacedSpecimen } from '@/api/client'
import type { Spot } from '@/cutting/areas'

/** One specimen on the sheet, with its inner marks and its name. */
const props = defineProps<{
  specimen: PlacedSpecimen
  /** Where its middle is now, in mm from the left selvedge and the cut end. */
  at: Spot
  up: (y: number) => number
  unit: number
  hatch: string
  isChosen: boolean
  isGuilty: boolean
}>()

const LABEL_PX = 17
const SMALLEST_LABEL_PX = 9

function shifted(points: Spot[]): string {
  const dx = props.at.x - (props.specimen.x_mm ?? 0)
  const dy = props.at.y - (props.specimen.y_mm ?? 0)
  return points.map(({ x, y }) => `${x + dx},${props.up(y + dy)}`).join(' ')
}
/** The name along the long side, as large as fits; none where it could not be read. */
const label = computed(() => {
  const { across_mm: across, along_mm: along, name, disc } = props.specimen
  const { x, y } = props.at
  const isUpright = along > across * 1.2
  const narrow = Math.min(across, along)
  const wide = Math.max(across, along)
  const size = Math.min(LABEL_PX * props.unit, narrow * 0.62, (1.5 * wide) / name.length)
  const off = disc || wide < 1.2 * narrow ? 0 : 0.18 * wide
  const middle = isUpright ? `${x} ${props.up(y + off)}` : `${x + off} ${props.up(y)}`
  return {
    size,
    isShown: size > SMALLEST_LABEL_PX * props.unit,
    transform: `translate(${middle})${isUpright && narrow < wide / 3 ? ' rotate(-90)' : ''}`,
  }
})
</script>

<template>
  <g
    class="piece"
    :class="{ guilty: isGuilty, chosen: isChosen, spare: specimen.spare, locked: specimen.locked }"
    :data-name="specimen.name"
  >
    <polygon :points="shifted(specimen.outline)" class="ground" />
    <polygon :points="shifted(specimen.outline)" class="edge" :fill="hatch" />
    <polyline
      v-for="(mark, place) in specimen.inner_marks"
      :key="place"
      :points="shifted(mark.points)"
      class="inner"
    />
    <text
      v-if="label.isShown"
      :transform="label.transform"
      :font-size="label.size"
      :stroke-width="label.size * 0.42"
      text-anchor="middle"
      dy=".35em"
      class="label"
    >
      {{ specimen.name }}
    </text>
    <path
      v-if="specimen.locked"
      class="pin"
      :transform="`translate(${at.x} ${up(at.y)}) scale(${unit * 1.2})`"
      d="M-5 -1h10v8h-10zM-3.2 -1v-3a3.2 3.2 0 0 1 6.4 0v3"
    />
  </g>
</template>

<style scoped>
.ground {
  fill: var(--page);
}

.edge {
  stroke: var(--ink);
  stroke-width: 1.4px;
  vector-effect: non-scaling-stroke;
}

.spare .edge {
  stroke-dasharray: 6 4;
}

.inner {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.3px;
  vector-effect: non-scaling-stroke;
}

.label {
  fill: var(--ink);
  font-family: var(--mono);
  font-weight: 700;
  paint-order: stroke;
  stroke: var(--page);
  stroke-linejoin: round;
  pointer-events: none;
}

.pin {
  fill: var(--ochre);
  stroke: var(--ink);
  stroke-width: 1.2;
}

.chosen .ground {
  fill: var(--blue-wash);
}

.chosen .label {
  stroke: var(--blue-wash);
}

.chosen .edge {
  stroke: var(--blue);
  stroke-width: 2.5px;
}

.guilty .edge {
  stroke: var(--brick);
  stroke-width: 2.5px;
}
</style>
