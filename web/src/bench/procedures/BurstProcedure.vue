<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import BigFigures from '@/bench/procedures/BigFigures.vue'
import { useFigures, type ProcedureProps } from '@/bench/procedures/figures'
import RecordedChart from '@/bench/procedures/RecordedChart.vue'

/** A burst: the dome over its ring, the pressure that raises it, and the time it may take. */
const props = defineProps<ProcedureProps>()
defineEmits<{ working: [] }>()
const {
  upper: pressure,
  lower: time,
  figure,
  unitOr,
  opens,
  titles,
  device,
} = useFigures(props, 'pressure_kpa', 'time_s')
const WINDOW = [15, 25] as const
const LONGEST = 40
/** How high the dome stands, as a share of its ring; a sensor that hangs shows no dome. */
const rise = computed(() => {
  const most = Math.max(...props.recorded.y.value, 1)
  if (props.recorded.isLive.value) return Math.min((pressure.value ?? 0) / Math.max(most, 300), 1)
  return 0
})
const dome = computed(() => `M20 70 Q90 ${70 - 110 * Math.sqrt(rise.value)} 160 70`)
const at = (seconds: number) => 200 + (Math.min(seconds, LONGEST) / LONGEST) * 300
const burst = computed(() => props.view.phase === 'after' || Boolean(props.recorded.shown.value))
</script>

<template>
  <BigFigures
    :first="{ value: pressure, unit: unitOr('kPa'), digits: 1, text: figure, title: titles.upper }"
    :second="{ value: time, unit: 's', digits: 1, title: titles.lower }"
    :device="device && { ...device, unit: 'kPa' }"
    :opens="opens"
    :set-up="view.set_up"
    @open="$emit('working')"
  />
  <svg
    class="rig"
    viewBox="0 0 520 104"
    height="104"
    preserveAspectRatio="xMinYMid meet"
    role="img"
    :aria-label="
      t('bench.dome-over-its-ring-time-to-burst', {
        part: time === null ? t('bench.not-known') : `${time.toFixed(1)} s`,
      })
    "
  >
    <path
      v-if="burst && !recorded.isLive.value"
      class="cloth torn"
      d="M20 70l56 -8 -10 14M160 70l-52 -9 9 15"
    />
    <path v-else class="cloth" :d="dome" />
    <path class="ring" d="M8 70h24v12H8zM148 70h24v12h-24z" />
    <path class="oil" d="M32 82h116" />
    <rect
      class="window"
      :x="at(WINDOW[0])"
      y="52"
      :width="at(WINDOW[1]) - at(WINDOW[0])"
      height="18"
    />
    <path class="scale" :d="`M${at(0)} 70H${at(LONGEST)}`" />
    <g v-for="seconds in [0, 10, 15, 20, 25, 30, 40]" :key="seconds">
      <path class="scale" :d="`M${at(seconds)} 70v6`" />
      <text :x="at(seconds)" y="92" text-anchor="middle">{{ seconds }}</text>
    </g>
    <path v-if="time !== null" class="needle" :d="`M${at(time)} 70l-7 -22h14z`" />
    <text :x="at(0)" y="40">{{ t('bench.time-to-burst-s') }}</text>
  </svg>
  <RecordedChart :view="view" :recorded="recorded" />
</template>

<style scoped>
.rig {
  display: block;
  max-width: 100%;
  margin-top: 6px;
}

.cloth {
  fill: none;
  stroke: var(--ink);
  stroke-width: 3;
}

.torn {
  stroke: var(--brick);
}

.ring {
  fill: var(--ink-3);
}

.oil {
  stroke: var(--ochre);
  stroke-width: 5;
}

.window {
  fill: var(--ochre-wash);
  stroke: var(--tape);
}

.scale {
  stroke: var(--ink);
  stroke-width: 1.5;
}

.needle {
  fill: var(--blue);
}

text {
  fill: var(--ink-2);
  font: 13px var(--mono);
}
</style>
