<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { fixed } from '@/ui/numbers'

/** The way that a frame will take: length over time, dashed from where only the run can tell. */
const props = withDefaults(defineProps<{ points: Schemas['PathPointView'][]; wide?: number }>(), {
  wide: 600,
})

const HIGH = 130
const MARGIN = 26
const longest = computed(() => Math.max(1e-9, ...props.points.map((point) => point.time_s)))
const farthest = computed(() => Math.max(1e-9, ...props.points.map((point) => point.extension_mm)))
const at = (point: Schemas['PathPointView']) =>
  `${MARGIN + ((props.wide - 2 * MARGIN) * point.time_s) / longest.value},${
    HIGH - MARGIN - ((HIGH - 2 * MARGIN) * Math.max(point.extension_mm, 0)) / farthest.value
  }`
const firstGuess = computed(() => props.points.findIndex((point) => !point.known))
const sure = computed(() =>
  (firstGuess.value < 0 ? props.points : props.points.slice(0, firstGuess.value)).map(at).join(' '),
)
const guessed = computed(() =>
  firstGuess.value < 0
    ? ''
    : props.points
        .slice(firstGuess.value - 1)
        .map(at)
        .join(' '),
)
const lasts = computed(() =>
  longest.value < 600 ? `${fixed(longest.value, 0)} s` : `${fixed(longest.value / 60, 0)} min`,
)
</script>

<template>
  <svg
    :viewBox="`0 0 ${wide} ${HIGH}`"
    role="img"
    :aria-label="t('ui.planned-movement-of-the-frame')"
  >
    <path :d="`M${MARGIN} ${HIGH - MARGIN}H${wide - MARGIN}`" class="axis" />
    <polyline :points="sure" class="sure" />
    <polyline v-if="guessed" :points="guessed" class="guessed" />
    <text :x="MARGIN" :y="15">{{ fixed(farthest, 1) }} mm</text>
    <text :x="wide - MARGIN" :y="HIGH - 7" text-anchor="end">
      {{ guessed ? t('ui.as-far-as-is-known') : '' }}{{ lasts }}
    </text>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  max-width: 620px;
}

path,
polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  stroke-linejoin: round;
  vector-effect: non-scaling-stroke;
}

.axis {
  stroke: var(--ink-3);
  stroke-width: 1;
}

.sure {
  stroke: var(--blue);
}

.guessed {
  stroke: var(--blue);
  stroke-dasharray: 6 5;
}

text {
  fill: var(--ink-2);
  font-family: var(--mono);
  font-size: 14px;
}
</style>
