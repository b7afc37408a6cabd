<script setup lang="ts">
import { t } from '@/ui/words'
import { coordinate } from '@/ui/numbers'
import { computed } from 'vue'

/** A specimen to scale: its outline, its marks and its dimensions. */
interface Cut {
  outline: string
  long_mm: number
  short_mm: number
  points_mm: number[][]
  inner_marks: unknown[]
  size_text: string
}
const props = defineProps<{ cut: Cut }>()
const ROOM = 300

const scale = computed(() => ROOM / Math.max(props.cut.long_mm, props.cut.short_mm * 1.1, 60))
const at = (point: [number, number] | number[]) =>
  `${coordinate(point[0] * scale.value)},${coordinate(-point[1] * scale.value)}`
const half = computed(() => [
  (props.cut.short_mm / 2) * scale.value,
  (props.cut.long_mm / 2) * scale.value,
])
const outline = computed(() => props.cut.points_mm.map(at).join(' '))
interface Named {
  name: string
  points_mm: [number, number][]
}
const marks = computed(() =>
  (props.cut.inner_marks as unknown as Named[]).map((mark, place, all) => {
    const ys = mark.points_mm.map((point) => -point[1] * scale.value)
    return {
      name: all.findIndex((innerMark) => innerMark.name === mark.name) === place ? mark.name : '',
      points: mark.points_mm.map(at).join(' '),
      y: (Math.min(...ys) + Math.max(...ys)) / 2,
      x: Math.max(...mark.points_mm.map((point) => point[0] * scale.value)),
    }
  }),
)
/** Names of marks, moved apart where they would lie on one another. */
const names = computed(() => {
  const placed: { name: string; y: number; fromX: number; fromY: number }[] = []
  for (const mark of [...marks.value].filter((mark) => mark.name).sort((a, b) => a.y - b.y)) {
    const above = placed[placed.length - 1]
    const y = above ? Math.max(mark.y, above.y + 20) : mark.y
    placed.push({ name: mark.name, y, fromX: mark.x, fromY: mark.y })
  }
  return placed
})
const right = computed(() => half.value[0]! + 26)
const box = computed(() => {
  const height = 2 * half.value[1]! + 66
  const width = 2 * half.value[0]! + 60 + (names.value.length ? 160 : 40)
  return [-half.value[0]! - 60, -half.value[1]! - 14, width, height] as const
})
</script>

<template>
  <svg
    :viewBox="box.join(' ')"
    :width="box[2]"
    :height="box[3]"
    role="img"
    :aria-label="t('ui.specimen', { size_text: cut.size_text })"
  >
    <circle v-if="cut.outline === 'disc'" :r="half[1]" class="blank" />
    <polygon v-else-if="cut.points_mm.length" :points="outline" class="blank" />
    <rect
      v-else
      :x="-half[0]!"
      :y="-half[1]!"
      :width="2 * half[0]!"
      :height="2 * half[1]!"
      class="blank"
    />
    <polyline v-for="(mark, place) in marks" :key="place" :points="mark.points" class="mark" />
    <g v-for="name in names" :key="name.name">
      <path :d="`M${name.fromX + 3} ${name.fromY}L${right - 6} ${name.y}`" class="leader" />
      <text :x="right" :y="name.y + 5">{{ name.name }}</text>
    </g>
    <path :d="`M${-half[0]!} ${half[1]! + 16}h${2 * half[0]!}`" class="measure" />
    <path
      :d="`M${-half[0]!} ${half[1]! + 10}v12M${half[0]!} ${half[1]! + 10}v12`"
      class="measure"
    />
    <text x="0" :y="half[1]! + 38" text-anchor="middle" class="mono">
      {{ cut.outline === 'disc' ? '⌀ ' : '' }}{{ cut.short_mm }} mm
    </text>
    <template v-if="cut.outline !== 'disc'">
      <path :d="`M${-half[0]! - 16} ${-half[1]!}v${2 * half[1]!}`" class="measure" />
      <path
        :d="`M${-half[0]! - 22} ${-half[1]!}h12M${-half[0]! - 22} ${half[1]!}h12`"
        class="measure"
      />
      <text
        :transform="`translate(${-half[0]! - 26} 0) rotate(-90)`"
        text-anchor="middle"
        class="mono"
      >
        {{ cut.long_mm }} mm
      </text>
    </template>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  max-width: 100%;
  height: auto;
}

.blank {
  fill: var(--sunk);
  stroke: var(--ink);
  stroke-width: 1.6;
}

.mark {
  fill: none;
  stroke: var(--blue);
  stroke-width: 1.8;
}

.leader {
  stroke: var(--ink-3);
}

.measure {
  fill: none;
  stroke: var(--ink-2);
}

text {
  fill: var(--ink-2);
  font: 14px var(--text);
}

.mono {
  font-family: var(--mono);
}
</style>
