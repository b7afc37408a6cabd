<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref, watch } from 'vue'
import type { BenchView } from '@/bench/bench'
import { coordinate, fixed } from '@/ui/numbers'

/** The barrel in section with its piston, both sensors beside their set point, and the dip. */
const props = defineProps<{ view: BenchView }>()
const [WIDE, HIGH] = [360, 120]
const MOST_KEPT = 240
const read = (name: string) =>
  props.view.station?.readings.find((reading) => reading.name === name)?.value
const set = computed(() => read('set_c'))
const upper = computed(() => read('upper_c'))
const lower = computed(() => read('lower_c'))
const history = ref<{ at: number; upper: number; lower: number }[]>([])
watch(
  () => props.view.now,
  (now) => {
    if (upper.value === undefined || lower.value === undefined) return
    const next = { at: Date.parse(now), upper: upper.value, lower: lower.value }
    history.value = [...history.value, next].slice(-MOST_KEPT)
  },
  { immediate: true },
)
const done = computed(
  () => new Set(props.view.events.filter((event) => !event.taken_back).map((event) => event.kind)),
)
/** How far down the piston is: out, in above the charge, at its lower mark, through. */
const pistonAt = computed(() => {
  if (!done.value.has('charged') || done.value.has('cleaned')) return 2
  if (!done.value.has('purged')) return 20
  const [series] = props.view.series
  return Math.min(30 + 4 * (series?.items.length ?? 0), 48)
})
const spread = computed(() => {
  const all = history.value.flatMap((point) => [point.upper, point.lower])
  return Math.max(2, ...all.map((value) => Math.abs(value - (set.value ?? value)))) * 1.15
})
const line = (name: 'upper' | 'lower') => {
  const first = history.value[0]?.at ?? 0
  const last = Math.max(history.value.at(-1)?.at ?? 0, first + 60_000)
  return history.value
    .map((point) => {
      const x = ((point.at - first) / (last - first)) * WIDE
      const y = HIGH / 2 - ((point[name] - set.value!) / spread.value) * (HIGH / 2 - 6)
      return `${coordinate(x)},${coordinate(y)}`
    })
    .join(' ')
}
</script>

<template>
  <div v-if="set !== undefined" class="barrel">
    <svg
      viewBox="0 0 92 170"
      role="img"
      :aria-label="t('bench.the-barrel-with-its-piston')"
      class="section"
    >
      <path d="M36 20v126h20v-126M36 20h-16v126h16M56 20h16v126h-16" class="wall" />
      <rect x="36" :y="pistonAt" width="20" height="92" class="piston" />
      <rect
        v-if="done.has('charged') && !done.has('cleaned')"
        x="36"
        :y="pistonAt + 92"
        width="20"
        :height="54 - pistonAt"
        class="melt"
      />
      <path :d="`M36 ${pistonAt + 30}h20M36 ${pistonAt + 44}h20`" class="marks" />
      <path d="M40 146h12v10h-12z" class="die" />
      <path v-if="done.has('purged') && !done.has('finished')" d="M46 156v14" class="strand" />
      <circle cx="74" cy="46" r="4" class="upper" />
      <circle cx="74" cy="122" r="4" class="lower" />
    </svg>
    <div>
      <p>
        <b class="mono upper">{{ fixed(upper ?? 0, 1) }}</b>
        <b class="mono lower">{{ fixed(lower ?? 0, 1) }}</b>
        <span class="mono quiet">{{ t('bench.set-c', { set: fixed(set, 1) }) }}</span>
      </p>
      <svg
        :viewBox="`0 0 ${WIDE} ${HIGH}`"
        role="img"
        :aria-label="t('bench.both-temperatures-since-you-opened-this')"
      >
        <path :d="`M0 ${HIGH / 2}H${WIDE}`" class="axis" />
        <polyline :points="line('upper')" class="upper" />
        <polyline :points="line('lower')" class="lower" />
      </svg>
    </div>
  </div>
</template>

<style scoped>
.barrel {
  display: grid;
  grid-template-columns: 86px minmax(0, 420px);
  gap: 22px;
  align-items: center;
}

svg {
  display: block;
  width: 100%;
}

path,
polyline,
rect {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  stroke-linejoin: round;
}

.piston,
.die {
  fill: var(--page);
}

.melt,
.strand {
  stroke: var(--ochre);
}

.melt {
  fill: var(--ochre-wash);
}

.marks {
  stroke: var(--brick);
}

.axis {
  stroke: var(--hair);
}

polyline.upper {
  stroke: var(--blue);
}

polyline.lower {
  stroke: var(--ochre);
}

circle.upper {
  fill: var(--blue);
}

circle.lower {
  fill: var(--ochre);
}

p {
  display: flex;
  gap: 20px;
  align-items: baseline;
}

b {
  font-size: 30px;
}

b.upper {
  color: var(--blue);
}

b.lower {
  color: var(--ochre);
}
</style>
