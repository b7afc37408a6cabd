<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { TypedSample } from '@/jobs/typedSample'
import { figureFrom } from '@/ui/numbers'

/** What arrived, drawn: the pieces laid side by side, or the bag with its share of regrind. */
const props = defineProps<{ form: Schemas['SampleRequest']['form']; sample: TypedSample }>()
const MOST_DRAWN = 24
const PITCH = 16
const count = computed(() => Math.floor(figureFrom(props.sample.count)))
const drawn = computed(() => (count.value > 0 ? Math.min(count.value, MOST_DRAWN) : 0))
const more = computed(() => Math.max(count.value - MOST_DRAWN, 0))
const share = computed(() => {
  const percent = figureFrom(props.sample.regrind_percent)
  return percent > 0 && percent <= 100 ? percent : 0
})
const OUTLINES: Record<string, string> = {
  'turned rods': 'M0 0h10v14l-3 6v30l3 6v14h-10v-14l3-6v-30l-3-6z',
  dumbbells: 'M0 0h10v16l-3 8v22l3 8v16h-10v-16l3-8v-22l-3-8z',
  discs: 'M5 30a5 5 0 1 1 0 10a5 5 0 1 1 0-10z',
}
const outline = computed(() => OUTLINES[props.sample.piece_kind ?? ''] ?? 'M0 0h10v70h-10z')
</script>

<template>
  <svg
    v-if="form === 'pieces' && drawn"
    :width="drawn * PITCH + 90"
    height="78"
    :viewBox="`-2 -4 ${drawn * PITCH + 90} 78`"
    aria-hidden="true"
  >
    <path
      v-for="place in drawn"
      :key="place"
      :d="outline"
      :transform="`translate(${(place - 1) * PITCH} 0)`"
    />
    <text v-if="more" :x="drawn * PITCH + 6" y="40">{{ t('jobs.and-more', { more }) }}</text>
  </svg>
  <svg
    v-else-if="form === 'granules' && figureFrom(sample.mass_g) > 0"
    width="150"
    height="110"
    viewBox="-4 -4 150 110"
    aria-hidden="true"
  >
    <rect
      v-if="share"
      x="10"
      :y="100 - share * 0.8"
      width="80"
      :height="share * 0.8"
      class="share"
    />
    <path d="M16 0h68l-6 14l12 10v70q0 8-8 8h-64q-8 0-8-8v-70l12-10z" class="bag" />
    <text x="50" y="62" text-anchor="middle">{{ sample.mass_g }} g</text>
  </svg>
</template>

<style scoped>
svg {
  max-width: 100%;
}

path {
  fill: var(--sunk);
  stroke: var(--ink);
  stroke-width: 1.4;
  stroke-linejoin: round;
}

.bag {
  fill: none;
}

.share {
  fill: var(--blue-wash);
}

text {
  fill: var(--ink-2);
  font: 14px var(--mono);
}
</style>
