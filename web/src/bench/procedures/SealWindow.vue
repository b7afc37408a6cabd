<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { BenchView } from '@/bench/bench'
import { coordinate, fixed, three } from '@/ui/numbers'

/** Strength over the temperature of the sealing jaws, point by point, with its plateau. */
const props = defineProps<{ window: NonNullable<BenchView['seal_window']> }>()
const [WIDE, HIGH, SIDE, FOOT] = [620, 118, 34, 24]
const strongest = computed(() => Math.max(...props.window.points.map((point) => point.mean)))
const ends = computed(() => {
  const at = props.window.points.map((point) => point.jaw_temperature_c)
  const [low, high] = [Math.min(...at), Math.max(...at)]
  const spare = Math.max((high - low) * 0.12, 5)
  return [low - spare, high + spare] as const
})
const x = (at: number) =>
  coordinate(SIDE + ((at - ends.value[0]) / (ends.value[1] - ends.value[0])) * (WIDE - 2 * SIDE))
const y = (mean: number) => coordinate(HIGH - FOOT - (mean / strongest.value) * (HIGH - FOOT - 20))
const path = computed(() =>
  props.window.points.map((point) => `${x(point.jaw_temperature_c)},${y(point.mean)}`).join(' '),
)
const band = computed(() => {
  const [low, high] = props.window.plateau_c
  return { x: x(low) - 4, width: x(high) - x(low) + 8 }
})
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="t('bench.seal-window-so-far')">
      <rect class="plateau" v-bind="band" :y="8" :height="HIGH - FOOT - 8" rx="4" />
      <path :d="`M${SIDE - 12} ${HIGH - FOOT}H${WIDE - SIDE + 12}`" class="axis" />
      <polyline :points="path" />
      <g v-for="point in window.points" :key="point.jaw_temperature_c">
        <circle :cx="x(point.jaw_temperature_c)" :cy="y(point.mean)" r="4.5" />
        <text :x="x(point.jaw_temperature_c)" :y="HIGH - 7" text-anchor="middle">
          {{ fixed(point.jaw_temperature_c, 0) }}
        </text>
      </g>
    </svg>
    <figcaption class="small">
      <i18n-t keypath="bench.seal-window-best" scope="global"
        ><template #force
          ><b class="mono">{{ three(strongest) }} N/mm</b></template
        ><template #low
          ><b class="mono">{{ fixed(window.plateau_c[0], 0) }}</b></template
        ><template #high
          ><b class="mono">{{ fixed(window.plateau_c[1], 0) }} °C</b></template
        ></i18n-t
      >
      <template v-if="window.points.length > 2">
        <i18n-t keypath="bench.run-the-sealer-at" scope="global"
          ><template #temperature
            ><b class="mono">{{ fixed(window.setting_c, 0) }} °C</b></template
          ></i18n-t
        >
      </template>
      <template v-if="window.initiation_c !== null">
        <i18n-t keypath="bench.begins-at" scope="global"
          ><template #temperature
            ><b class="mono">{{ fixed(window.initiation_c, 0) }} °C</b></template
          ></i18n-t
        >
      </template>
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}

svg {
  display: block;
  width: 100%;
  max-width: 720px;
}

.plateau {
  fill: var(--blue-wash);
}

.axis {
  fill: none;
  stroke: var(--ink-3);
}

polyline {
  fill: none;
  stroke: var(--blue);
  stroke-width: 2;
  stroke-linejoin: round;
}

circle {
  fill: var(--page);
  stroke: var(--blue);
  stroke-width: 2.5;
}

text {
  fill: var(--ink-2);
  font-family: var(--mono);
  font-size: 13px;
}
</style>
