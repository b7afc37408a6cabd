<script setup lang="ts">
import { computed, ref, useId } from 'vue'
import type { BrokenRule, PlacedSpecimen, SheetView } from '@/api/client'

/** The sheet to scale; specimens and areas can be dragged when it is not cut yet. */
const props = defineProps<{
  sheet: SheetView
  live?: boolean
  marking?: boolean
  selected?: number | null
  ghost?: { id: number; x: number; y: number } | null
  broken?: BrokenRule[]
}>()
const emit = defineEmits<{
  pick: [id: number | null]
  drag: [id: number, x: number, y: number]
  drop: [id: number, x: number, y: number]
  area: [left: number, near: number, right: number, far: number]
}>()

const hatch = useId()
const drawing = ref<SVGSVGElement | null>(null)
const margin = computed(() => Math.max(props.sheet.width_mm, props.sheet.length_mm) * 0.055)
const view = computed(() => {
  const m = margin.value
  return `${-m} ${-m * 0.35} ${props.sheet.width_mm + m * 1.35} ${props.sheet.length_mm + m * 1.35}`
})
const unit = computed(() => Math.max(props.sheet.width_mm, props.sheet.length_mm) / 1000)
const selvedge = computed(() =>
  Math.max(0, ...props.sheet.specimens.map((one) => one.selvedge_margin_mm)),
)
const up = (y: number) => props.sheet.length_mm - y
const shownBroken = computed(() => props.broken ?? props.sheet.broken)
const guilty = computed(() => new Set(shownBroken.value.flatMap((rule) => rule.specimens)))

let held: { id: number; dx: number; dy: number; moved: boolean } | null = null
const box = ref<{ x: number; y: number; toX: number; toY: number } | null>(null)

function spot(event: PointerEvent): { x: number; y: number } {
  const matrix = drawing.value!.getScreenCTM()!.inverse()
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix)
  return { x: point.x, y: up(point.y) }
}

function at(one: PlacedSpecimen): { x: number; y: number } {
  if (props.ghost?.id === one.id) return { x: props.ghost.x, y: props.ghost.y }
  return { x: one.x_mm ?? 0, y: one.y_mm ?? 0 }
}

function grab(event: PointerEvent, one: PlacedSpecimen) {
  emit('pick', one.id)
  if (!props.live || props.marking) return
  const { x, y } = spot(event)
  held = { id: one.id, dx: at(one).x - x, dy: at(one).y - y, moved: false }
  drawing.value!.setPointerCapture(event.pointerId)
  event.stopPropagation()
}

function begin(event: PointerEvent) {
  if (!props.marking) return emit('pick', null)
  const { x, y } = spot(event)
  box.value = { x, y, toX: x, toY: y }
  drawing.value!.setPointerCapture(event.pointerId)
}

function go(event: PointerEvent) {
  const { x, y } = spot(event)
  if (box.value) Object.assign(box.value, { toX: x, toY: y })
  if (held) {
    held.moved = true
    emit('drag', held.id, x + held.dx, y + held.dy)
  }
}

function end(event: PointerEvent) {
  const { x, y } = spot(event)
  if (box.value) {
    const { x: fromX, y: fromY } = box.value
    box.value = null
    if (Math.abs(x - fromX) > 2 && Math.abs(y - fromY) > 2)
      emit('area', Math.min(x, fromX), Math.min(y, fromY), Math.max(x, fromX), Math.max(y, fromY))
  }
  if (held?.moved) emit('drop', held.id, x + held.dx, y + held.dy)
  held = null
}

type Point = { x: number; y: number }
function shifted(one: PlacedSpecimen, points: Point[]): string {
  const dx = at(one).x - (one.x_mm ?? 0)
  const dy = at(one).y - (one.y_mm ?? 0)
  return points.map(({ x, y }) => `${x + dx},${up(y + dy)}`).join(' ')
}

const placed = computed(() => props.sheet.specimens.filter((one) => one.x_mm !== null))
const corners = (points: Point[]) => points.map(({ x, y }) => `${x},${up(y)}`).join(' ')
const middle = (points: Point[]) => ({
  x: points.reduce((sum, { x }) => sum + x, 0) / points.length,
  y: up(points.reduce((sum, { y }) => sum + y, 0) / points.length),
})
function labelAt(one: PlacedSpecimen) {
  const { x, y } = at(one)
  return one.along_mm > one.across_mm
    ? { x, y: up(y + one.along_mm * 0.18) }
    : { x: x + one.across_mm * 0.18, y: up(y) }
}
const chosen = computed(() => placed.value.find((one) => one.id === props.selected) ?? null)
</script>

<template>
  <svg
    ref="drawing"
    class="sheet"
    :class="{ marking, live }"
    :viewBox="view"
    preserveAspectRatio="xMidYMid meet"
    role="group"
    :aria-label="`Sheet ${sheet.width_mm} mm across, ${sheet.length_mm} mm along the roll`"
    @pointerdown="begin"
    @pointermove="go"
    @pointerup="end"
  >
    <defs>
      <pattern
        :id="hatch"
        :width="9 * unit"
        :height="9 * unit"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <line x1="0" y1="0" x2="0" :y2="9 * unit" class="hatch" :stroke-width="1.6 * unit" />
      </pattern>
    </defs>
    <rect :width="sheet.width_mm" :height="sheet.length_mm" class="cloth" />
    <rect :width="selvedge" :height="sheet.length_mm" class="margin" />
    <rect
      :x="sheet.width_mm - selvedge"
      :width="selvedge"
      :height="sheet.length_mm"
      class="margin"
    />
    <rect
      :y="sheet.length_mm - sheet.end_margin_mm"
      :width="sheet.width_mm"
      :height="sheet.end_margin_mm"
      class="margin"
    />
    <rect :width="sheet.width_mm" :height="sheet.end_margin_mm" class="margin" />
    <rect :width="sheet.width_mm" :height="sheet.length_mm" class="outline" />

    <g v-for="(area, place) in sheet.avoided" :key="`a${place}`">
      <polygon :points="corners(area.corners)" class="avoided" :fill="`url(#${hatch})`" />
      <text
        v-bind="middle(area.corners)"
        class="reason"
        :font-size="22 * unit"
        text-anchor="middle"
        dy=".35em"
      >
        {{ area.reason }}
      </text>
    </g>

    <g
      v-for="one in placed"
      :key="one.id"
      class="piece"
      :class="{ guilty: guilty.has(one.id), chosen: one.id === selected, spare: one.spare }"
      @pointerdown="grab($event, one)"
    >
      <rect
        :x="at(one).x - one.across_mm / 2"
        :y="up(at(one).y + one.along_mm / 2)"
        :width="one.across_mm"
        :height="one.along_mm"
      />
      <polyline
        v-for="mark in one.inner_marks"
        :key="mark.name"
        :points="shifted(one, mark.points)"
        class="inner"
      />
      <text
        v-bind="labelAt(one)"
        :font-size="27 * unit"
        text-anchor="middle"
        dy=".35em"
        class="label"
      >
        {{ one.label }}
      </text>
    </g>

    <rect
      v-for="(rule, place) in shownBroken"
      :key="`b${place}`"
      :x="rule.where.left"
      :y="up(rule.where.far)"
      :width="Math.max(rule.where.right - rule.where.left, 2 * unit)"
      :height="Math.max(rule.where.far - rule.where.near, 2 * unit)"
      class="broken"
    />
    <g v-if="chosen" class="dimensions">
      <path
        :d="`M0 ${up(at(chosen).y)}H${at(chosen).x - chosen.across_mm / 2}M${at(chosen).x} ${sheet.length_mm}V${up(at(chosen).y - chosen.along_mm / 2)}`"
      />
      <text :x="8 * unit" :y="up(at(chosen).y) - 8 * unit" :font-size="22 * unit">
        {{ (at(chosen).x - chosen.across_mm / 2).toFixed(0) }} mm
      </text>
      <text :x="at(chosen).x + 8 * unit" :y="sheet.length_mm - 10 * unit" :font-size="22 * unit">
        {{ (at(chosen).y - chosen.along_mm / 2).toFixed(0) }} mm
      </text>
    </g>
    <rect
      v-if="box"
      :x="Math.min(box.x, box.toX)"
      :y="up(Math.max(box.y, box.toY))"
      :width="Math.abs(box.toX - box.x)"
      :height="Math.abs(box.toY - box.y)"
      class="avoided"
      :fill="`url(#${hatch})`"
    />
    <text class="axis" :x="0" :y="sheet.length_mm + 30 * unit" :font-size="21 * unit">
      cut end · weft, {{ sheet.width_mm }} mm across
    </text>
    <text
      class="axis"
      :font-size="21 * unit"
      :transform="`translate(${-14 * unit} ${sheet.length_mm}) rotate(-90)`"
    >
      left selvedge · warp, {{ sheet.length_mm }} mm
    </text>
  </svg>
</template>

<style scoped>
.sheet {
  display: block;
  width: 100%;
  height: 100%;
  touch-action: none;
  user-select: none;
}

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

.avoided {
  stroke: var(--brick);
  stroke-width: 1.2px;
  vector-effect: non-scaling-stroke;
}

.hatch {
  stroke: var(--brick);
  opacity: 0.55;
}

.reason {
  fill: var(--brick);
  font-weight: 700;
  paint-order: stroke;
  stroke: var(--page);
  stroke-width: 5px;
}

.piece rect {
  fill: var(--page);
  stroke: var(--ink);
  stroke-width: 1.5px;
  vector-effect: non-scaling-stroke;
}

.live .piece {
  cursor: grab;
}

.marking,
.marking .piece {
  cursor: crosshair;
}

.spare rect {
  stroke-dasharray: 6 4;
}

.inner {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.2px;
  vector-effect: non-scaling-stroke;
}

.label {
  fill: var(--ink);
  font-family: var(--mono);
  font-weight: 700;
}

.chosen rect {
  fill: var(--blue-wash);
  stroke: var(--blue);
  stroke-width: 2.5px;
}

.guilty rect {
  stroke: var(--brick);
  stroke-width: 2.5px;
}

.broken {
  fill: var(--brick);
  opacity: 0.42;
  pointer-events: none;
}

.dimensions path {
  fill: none;
  stroke: var(--blue);
  stroke-width: 1.3px;
  stroke-dasharray: 3 3;
  vector-effect: non-scaling-stroke;
}

.dimensions text {
  fill: var(--blue);
  font-family: var(--mono);
  font-weight: 600;
}

.dimensions {
  pointer-events: none;
}

.axis {
  fill: var(--ink-2);
  font-family: var(--mono);
}
</style>
