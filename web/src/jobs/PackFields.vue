<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { boxOf } from '@/jobs/pack'
import type { TypedSample } from '@/jobs/typedSample'
import { figureFrom } from '@/ui/numbers'

/** The size of a pack, its mass and its faces, drawn as it stands on the bench. */
const sample = defineModel<TypedSample>({ required: true })
const sides = computed(
  () => [sample.value.long_mm, sample.value.wide_mm, sample.value.high_mm].map(figureFrom) as Side,
)
type Side = [number, number, number]
const box = computed(() => boxOf(...sides.value))
/** An empty field is left out; what is typed must be above nothing. */
function wrong(typed: string) {
  return typed.trim() && !(figureFrom(typed) > 0) ? t('jobs.enter-a-value-above-0') : undefined
}
const SIDES = [
  { name: 'long_mm', label: t('jobs.length') },
  { name: 'wide_mm', label: t('jobs.width') },
  { name: 'high_mm', label: t('jobs.height') },
] as const
</script>

<template>
  <div class="three">
    <v-text-field
      v-for="side in SIDES"
      :key="side.name"
      v-model="sample[side.name]"
      class="mono"
      :label="side.label"
      suffix="mm"
      inputmode="decimal"
      :error-messages="wrong(sample[side.name])"
    />
  </div>
  <div class="pair">
    <v-text-field
      v-model="sample.gross_mass_kg"
      class="mono"
      :label="t('jobs.gross-mass-full-and-closed')"
      suffix="kg"
      inputmode="decimal"
      :error-messages="wrong(sample.gross_mass_kg)"
    />
    <v-text-field
      v-model="sample.faces"
      :label="t('jobs.faces-1-printed-5-seam')"
      maxlength="200"
    />
  </div>
  <svg
    v-if="box"
    :viewBox="box.view"
    :width="box.wide"
    :height="box.high"
    role="img"
    :aria-label="t('jobs.the-pack-with-the-numbers-of-its')"
  >
    <g v-for="face in box.faces" :key="face.number">
      <polygon :points="face.points" :class="{ top: face.number === 1 }" />
      <text :x="face.x" :y="face.y" text-anchor="middle" dy=".35em">{{ face.number }}</text>
    </g>
  </svg>
</template>

<style scoped>
.three,
.pair {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 14px;
}

.pair {
  grid-template-columns: 1fr 1fr;
}

svg {
  max-width: 100%;
}

polygon {
  fill: var(--sunk);
  stroke: var(--ink);
  stroke-width: 1.5;
  stroke-linejoin: round;
}

.top {
  fill: var(--page);
}

text {
  fill: var(--ink-2);
  font: 700 17px var(--mono);
}
</style>
