<script setup lang="ts">
import { t } from '@/ui/words'
import { fixed } from '@/ui/numbers'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** A specimen in true shape with the places where it is read; the place in hand is lit. */
const props = defineProps<{
  view: Schemas['MeasuringView']
  sizes: Schemas['SizeView'][]
  at: { field: string; place: number } | null
}>()
const emit = defineEmits<{ pick: [field: string, place: number] }>()

const TALL = 440
const long = computed(() => props.view.long_mm ?? 100)
const short = computed(() => props.view.short_mm ?? 30)
const scale = computed(() => Math.min(TALL / long.value, 190 / short.value))
const half = computed(() => ({
  across: (short.value * scale.value) / 2,
  along: (long.value * scale.value) / 2,
}))
const points = computed(() =>
  props.view.outline.map(({ x, y }) => `${x * scale.value},${-y * scale.value}`).join(' '),
)
const WIDTHS = ['width_mm', 'remaining_width_mm', 'diameter_mm']

/** How wide the outline is at a height along it, in drawing units. */
function acrossAt(y: number): number {
  const list = props.view.outline
  if (!list.length) return half.value.across
  let most = 0
  list.forEach((point, place) => {
    const next = list[(place + 1) % list.length]!
    if ((point.y - y) * (next.y - y) > 0 || point.y === next.y) return
    const share = (y - point.y) / (next.y - point.y)
    most = Math.max(most, Math.abs(point.x + share * (next.x - point.x)))
  })
  return (most || short.value / 2) * scale.value
}
/** All readings of a size to as many places as the finest of them. */
function shown(size: Schemas['SizeView'], reading: number): string {
  const places = size.readings.map((reading) => String(reading).split('.')[1]?.length ?? 0)
  return fixed(reading, Math.min(Math.max(...places), 4))
}
const marks = computed(() =>
  props.sizes.flatMap((size, column) => {
    const reads = Math.max(size.places_mm.length, size.readings.length)
    return Array.from({ length: reads }, (_, place) => {
      const y = size.places_mm[place] ?? size.places_mm[size.places_mm.length - 1] ?? 0
      const spread =
        reads > 1 &&
        new Set(size.places_mm.map((point) => Math.round((point * scale.value) / 16))).size < reads
      const shownY = spread ? (place - (reads - 1) / 2) * 26 : -y * scale.value
      return {
        key: `${size.field} ${place}`,
        field: size.field,
        place,
        y: shownY,
        across: acrossAt(y),
        wide: WIDTHS.includes(size.field),
        left: column % 2 === 1,
        value: size.readings[place] === undefined ? undefined : shown(size, size.readings[place]),
        odd: size.remarks.some((remark) => remark.place === place || remark.place === null),
        lit: props.at?.field === size.field && props.at.place === place,
      }
    })
  }),
)
</script>

<template>
  <svg
    :viewBox="`${-half.across - 116} ${-half.along - 16} ${2 * half.across + 232} ${2 * half.along + 32}`"
    class="outline"
    role="img"
    :aria-label="t('measuring.measuring-positions')"
  >
    <circle v-if="view.disc" :r="half.along" class="blank" />
    <polygon v-else-if="points" :points="points" class="blank" />
    <rect
      v-else
      :x="-half.across"
      :y="-half.along"
      :width="2 * half.across"
      :height="2 * half.along"
      class="blank"
    />
    <g
      v-for="mark in marks"
      :key="mark.key"
      class="mark"
      :class="{ lit: mark.lit, read: mark.value !== undefined, odd: mark.odd }"
      @click="emit('pick', mark.field, mark.place)"
    >
      <template v-if="mark.wide">
        <path
          :d="`M${-mark.across - 8} ${mark.y}H${mark.across + 8}M${-mark.across} ${mark.y - 6}v12M${mark.across} ${mark.y - 6}v12`"
        />
        <circle v-if="mark.lit" :cx="mark.across + 8" :cy="mark.y" r="6" class="dot" />
      </template>
      <template v-else>
        <circle :cx="0" :cy="mark.y" r="7" />
        <circle v-if="mark.lit" :cx="0" :cy="mark.y" r="4" class="dot" />
      </template>
      <text
        :x="
          mark.left
            ? -Math.max(mark.across, half.across) - 16
            : Math.max(mark.across, half.across) + 18
        "
        :y="mark.y + 5"
        :text-anchor="mark.left ? 'end' : 'start'"
      >
        {{ mark.value ?? (mark.lit ? '?' : '') }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
.outline {
  display: block;
  width: 100%;
  max-height: 100%;
}

.blank {
  fill: var(--sunk);
  stroke: var(--ink);
  stroke-width: 1.6;
}

.mark {
  cursor: pointer;
}

.mark path,
.mark circle {
  fill: none;
  stroke: var(--ink-3);
  stroke-width: 1.6;
}

.mark.read path,
.mark.read circle {
  stroke: var(--ink);
}

.mark.lit path,
.mark.lit circle {
  stroke: var(--blue);
  stroke-width: 3;
}

.mark.odd path,
.mark.odd circle {
  stroke: var(--brick);
}

.mark .dot {
  fill: var(--blue);
}

text {
  fill: var(--ink);
  font: 600 15px var(--mono);
}

.lit text {
  fill: var(--blue);
}

.odd text {
  fill: var(--brick);
}
</style>
