<script setup lang="ts">
import { t } from '@/ui/words'
import { useElementSize } from '@vueuse/core'
import { computed, ref, useId } from 'vue'
import type { Schemas } from '@/api/client'
import { endOf, footOf, LEFT, scaleOf, stripsOf, ticksOf, TOP } from '@/conditioning/logScale'
import { fixed } from '@/ui/numbers'

/** The log of an enclosure: each quantity in its band, excursions hatched, gaps left open. */
const props = defineProps<{
  log: Schemas['LogView']
  room: Schemas['EnclosureView']
  /** Conditioning periods under the curve, each from its start to the moment its specimens are conditioned. */
  periods: { key: string; name: string; from: string; to: string | null; ready: boolean }[]
  now: number
}>()

const ROW = 30
const hatch = useId()
const drawing = ref<SVGSVGElement | null>(null)
const { width } = useElementSize(drawing, { width: 820, height: 0 })
const wide = computed(() => width.value || 820)

const from = computed(() => Date.parse(props.log.start))
const until = computed(() =>
  endOf(
    from.value,
    props.now,
    props.periods.map((period) => (period.to ? Date.parse(period.to) : 0)),
  ),
)
const x = computed(() => scaleOf(from.value, until.value, wide.value))
const strips = computed(() => stripsOf(props.log.points, props.room, x.value, from.value))
const below = computed(() => footOf(strips.value))
const tall = computed(() => below.value + 22 + props.periods.length * ROW + 6)
const ticks = computed(() => ticksOf(from.value, until.value))

const bad = computed(() =>
  [
    ...props.log.excursions.map((excursion) => ({ ...excursion, gap: false })),
    ...props.log.gaps.map((stretchShown) => ({ ...stretchShown, gap: true })),
  ].map((stretchShown) => {
    const start = Math.max(Date.parse(stretchShown.start), from.value)
    const end = stretchShown.end ? Date.parse(stretchShown.end) : props.now
    return {
      ...stretchShown,
      left: x.value(start),
      width: Math.max(x.value(end) - x.value(start), 2),
    }
  }),
)
</script>

<template>
  <svg
    ref="drawing"
    class="log"
    :viewBox="`0 0 ${wide} ${tall}`"
    role="img"
    :aria-label="t('conditioning.log-of', { name: room.name })"
  >
    <defs>
      <pattern
        :id="hatch"
        width="8"
        height="8"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <line x1="0" y1="0" x2="0" y2="8" class="hatch" />
      </pattern>
    </defs>
    <g v-for="strip in strips" :key="strip.unit">
      <rect
        :x="LEFT"
        :y="strip.y(strip.high)"
        :width="x(now) - LEFT"
        :height="strip.y(strip.low) - strip.y(strip.high)"
        class="band"
      />
      <path
        :d="`M${LEFT} ${strip.y(strip.high)}H${x(now)}M${LEFT} ${strip.y(strip.low)}H${x(now)}`"
        class="edge"
      />
      <text :x="LEFT - 8" :y="strip.y(strip.high) + 5" text-anchor="end">{{ strip.high }}</text>
      <text :x="LEFT - 8" :y="strip.y(strip.low) + 5" text-anchor="end">{{ strip.low }}</text>
      <text
        :x="LEFT - 8"
        :y="(strip.y(strip.high) + strip.y(strip.low)) / 2 + 5"
        text-anchor="end"
        class="unit"
      >
        {{ strip.unit }}
      </text>
    </g>
    <g v-for="(excursion, place) in bad" :key="place">
      <rect
        :x="excursion.left"
        :y="TOP"
        :width="excursion.width"
        :height="below - TOP - 14"
        :class="excursion.gap ? 'gap' : 'excursion'"
        :fill="excursion.gap ? 'none' : `url(#${hatch})`"
      >
        <title>{{ excursion.text }}, {{ fixed(excursion.minutes, 0) }} min</title>
      </rect>
    </g>
    <path v-for="strip in strips" :key="`p${strip.unit}`" :d="strip.path" class="curve" />
    <path :d="`M${x(now)} ${TOP}V${tall - 2}`" class="now" />
    <g v-for="tick in ticks" :key="tick.at">
      <path :d="`M${x(tick.at)} ${below - 8}v6`" class="edge" />
      <text :x="x(tick.at)" :y="below + 12" text-anchor="middle">{{ tick.text }}</text>
    </g>
    <g v-for="(period, index) in periods" :key="period.key">
      <path
        :d="`M${Math.max(x(Date.parse(period.from)), LEFT)} ${below + 42 + index * ROW}H${Math.min(x(period.to && !period.ready ? Date.parse(period.to) : now), wide - 6)}`"
        class="period"
        :class="{ ready: period.ready, stands: !period.to }"
      />
      <path
        v-if="Date.parse(period.from) >= from"
        :d="`M${x(Date.parse(period.from))} ${below + 35 + index * ROW}v14`"
        class="hook"
      />
      <text
        :x="Math.max(x(Date.parse(period.from)), LEFT) + 4"
        :y="below + 33 + index * ROW"
        class="period-name"
      >
        {{ period.name }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
.log {
  display: block;
  width: 100%;
  height: auto;
}

text {
  fill: var(--ink-2);
  font: 13px var(--mono);
}

.unit {
  fill: var(--ink);
  font-weight: 700;
}

.band {
  fill: var(--sunk);
}

.edge {
  fill: none;
  stroke: var(--ink-3);
}

.curve {
  fill: none;
  stroke: var(--blue);
  stroke-width: 1.7;
}

.excursion {
  stroke: var(--brick);
}

.hatch {
  stroke: var(--brick);
  stroke-width: 1.8;
  opacity: 0.7;
}

.gap {
  stroke: var(--ink-3);
  stroke-dasharray: 3 4;
}

.now {
  stroke: var(--ink);
  stroke-width: 1.6;
}

.period {
  fill: none;
  stroke: var(--tape);
  stroke-width: 6;
  stroke-dasharray: 9 1;
}

.period.ready {
  stroke: var(--ink);
}

.period.stands {
  stroke: var(--brick);
}

.hook {
  stroke: var(--ink);
  stroke-width: 1.6;
}

.period-name {
  fill: var(--ink);
  font: 13px var(--text);
  paint-order: stroke;
  stroke: var(--page);
  stroke-width: 4px;
}
</style>
