<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { fixed } from '@/ui/numbers'

/** The cloth with its margins; a roll that goes on is torn off where the drawing ends. */
const props = defineProps<{
  widthMm: number
  lengthMm: number
  shownMm: number
  endMarginMm: number
  selvedgeMm: number
  moulded: boolean
  unit: number
}>()

const TEETH = 24
const isTorn = computed(() => props.shownMm < props.lengthMm)
const outline = computed(() => {
  const { widthMm, shownMm } = props
  if (!isTorn.value) return `0,0 ${widthMm},0 ${widthMm},${shownMm} 0,${shownMm}`
  const step = widthMm / TEETH
  const teeth = Array.from(
    { length: TEETH + 1 },
    (_, n) => `${n * step},${n % 2 ? -0.2 * step : 0.2 * step}`,
  )
  return `0,${shownMm} ${teeth.join(' ')} ${widthMm},${shownMm}`
})
</script>

<template>
  <g>
    <polygon :points="outline" class="cloth" />
    <template v-if="Number.isFinite(selvedgeMm)">
      <rect :width="selvedgeMm" :height="shownMm" class="margin" />
      <rect :x="widthMm - selvedgeMm" :width="selvedgeMm" :height="shownMm" class="margin" />
    </template>
    <rect v-if="!isTorn" :width="widthMm" :height="endMarginMm" class="margin" />
    <rect :y="shownMm - endMarginMm" :width="widthMm" :height="endMarginMm" class="margin" />
    <polygon :points="outline" class="outline" />
    <text class="axis" :x="0" :y="shownMm + 20 * unit" :font-size="14 * unit">
      {{
        moulded
          ? t('cutting.near-edge-mm-wide', { widthMm })
          : t('cutting.cut-end-mm-across-the-roll', { widthMm })
      }}
    </text>
    <text
      class="axis"
      :font-size="14 * unit"
      :transform="`translate(${-8 * unit} ${shownMm}) rotate(-90)`"
    >
      {{ moulded ? t('cutting.left-edge') : t('cutting.left-selvedge') }} ·
      {{ fixed(lengthMm, 0) }} mm
      {{ moulded ? t('cutting.long') : t('cutting.along-the-roll') }}
    </text>
  </g>
</template>

<style scoped>
.cloth {
  fill: var(--page);
}

.margin {
  fill: var(--sunk);
}

.outline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2px;
  vector-effect: non-scaling-stroke;
}

.axis {
  fill: var(--ink-2);
  font-family: var(--mono);
}
</style>
