<script setup lang="ts">
import { computed } from 'vue'
import { useClocks, useNow } from '@/app/clock'

/** The graduated edge: the hours of this day, now, and the moments at which clocks run out. */
const FIRST = 0
const LAST = 24
const now = useNow()
const clocks = useClocks()

const hours = Array.from({ length: LAST - FIRST + 1 }, (_, place) => FIRST + place)
const quarters = Array.from({ length: (LAST - FIRST) * 4 + 1 }, (_, place) => place)

function share(at: number): number {
  const day = new Date(now.value)
  const start = new Date(day.getFullYear(), day.getMonth(), day.getDate(), FIRST).getTime()
  return (at - start) / ((LAST - FIRST) * 3_600_000)
}

const ends = computed(() =>
  (clocks.data.value?.clocks ?? [])
    .map((clock) => ({
      text: `${clock.text}, ${clock.whose}`,
      at: share(Date.parse(clock.ends_at)),
    }))
    .filter((end) => end.at >= 0 && end.at <= 1),
)
const nowAt = computed(() => Math.min(Math.max(share(now.value), 0), 1))
</script>

<template>
  <div class="ruler" aria-hidden="true">
    <svg preserveAspectRatio="none" viewBox="0 0 1000 14">
      <line
        v-for="place in quarters"
        :key="place"
        :x1="(place / (quarters.length - 1)) * 1000"
        :x2="(place / (quarters.length - 1)) * 1000"
        y1="0"
        :y2="place % 4 === 0 ? 9 : 4.5"
        vector-effect="non-scaling-stroke"
      />
    </svg>
    <span
      v-for="hour in hours.slice(1, -1)"
      :key="hour"
      class="hour mono"
      :style="{ left: `${((hour - FIRST) / (LAST - FIRST)) * 100}%` }"
      >{{ hour }}</span
    >
    <span
      v-for="end in ends"
      :key="end.text"
      class="end"
      :title="end.text"
      :style="{ left: `${end.at * 100}%` }"
    />
    <span class="now" :style="{ left: `${nowAt * 100}%` }" />
  </div>
</template>

<style scoped>
.ruler {
  position: relative;
  flex: none;
  height: 22px;
  margin: 0 34px;
}

svg {
  display: block;
  width: 100%;
  height: 14px;
}

line {
  stroke: var(--ink-3);
  stroke-width: 1;
}

.hour {
  position: absolute;
  top: 9px;
  transform: translateX(-50%);
  color: var(--ink-2);
  font-size: 11px;
  line-height: 1;
}

.end {
  position: absolute;
  top: 0;
  width: 4px;
  height: 9px;
  margin-left: -2px;
  background: var(--tape);
}

.now {
  position: absolute;
  top: 0;
  margin-left: -6px;
  border: 6px solid transparent;
  border-top: 11px solid var(--ink);
  border-bottom: 0;
}

@media (max-width: 1100px) {
  .ruler {
    margin: 0 22px;
  }
}
</style>
