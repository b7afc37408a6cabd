<script setup lang="ts">
import { fixed } from '@/ui/numbers'
import { computed, ref, useId } from 'vue'
import type { BrokenRule, PlacedSpecimen, SheetView } from '@/api/client'
import HatchPatterns from '@/ui/HatchPatterns.vue'
import { cornersOf, type AreaTool, type Spot } from '@/cutting/areas'
import { useZoom } from '@/ui/zoom'

/** The sheet to scale in true shape; specimens are dragged and areas drawn while it is `live`. */
const props = defineProps<{
  sheet: Pick<
    SheetView,
    'width_mm' | 'length_mm' | 'end_margin_mm' | 'avoided' | 'specimens' | 'tests'
  >
  live?: boolean
  /** A small picture: it is not zoomed. */
  still?: boolean
  tool?: AreaTool | null
  bandMm?: number
  selected?: number | null
  ghost?: { id: number; x: number; y: number } | null
  broken?: BrokenRule[]
  /** Show the roll no farther than this; what is beyond is broken off. */
  shownMm?: number
}>()
const emit = defineEmits<{
  pick: [id: number | null]
  drag: [id: number, x: number, y: number]
  drop: [id: number, x: number, y: number]
  area: [corners: Spot[]]
}>()

const FIGURE_PX = 15
const SMALLEST_LABEL_PX = 9
const name = useId()
const drawing = ref<SVGSVGElement | null>(null)
const long = computed(() => Math.min(props.shownMm ?? Infinity, props.sheet.length_mm))
const brokenOff = computed(() => long.value < props.sheet.length_mm)
const up = (y: number) => long.value - y
const margin = computed(() => Math.max(props.sheet.width_mm, long.value) * 0.045)
const whole = computed(() => ({
  x: -margin.value,
  y: -margin.value * 0.5,
  width: props.sheet.width_mm + margin.value * 1.4,
  height: long.value + margin.value * 1.5,
}))
const { shown, scale, zoom, pan, reset } = useZoom(whole)
const view = computed(() => {
  const { x, y, width, height } = shown.value
  return `${x} ${y} ${width} ${height}`
})
/** One thousandth of what is shown: sizes of words and hatches follow the eye, not the sheet. */
const unit = computed(() => Math.max(shown.value.width, shown.value.height * 1.3) / 1000)
const selvedge = computed(() =>
  Math.min(Infinity, ...props.sheet.specimens.map((specimen) => specimen.selvedge_margin_mm)),
)
const guilty = computed(() => new Set((props.broken ?? []).flatMap((rule) => rule.specimens)))
const hatchOf = computed(
  () => new Map(props.sheet.tests.map((test, place) => [test.id, `url(#${name}-${place})`])),
)

let held: { id: number; dx: number; dy: number; moved: boolean } | null = null
let panned: Spot | null = null
const spots = ref<Spot[]>([])
const area = computed(() => cornersOf(props.tool ?? 'box', spots.value, props.bandMm ?? 30))

function spot(event: MouseEvent): Spot {
  const matrix = drawing.value!.getScreenCTM()!.inverse()
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix)
  return { x: point.x, y: up(point.y) }
}

function at(placedSpecimen: PlacedSpecimen): Spot {
  if (props.ghost?.id === placedSpecimen.id) return { x: props.ghost.x, y: props.ghost.y }
  return { x: placedSpecimen.x_mm ?? 0, y: placedSpecimen.y_mm ?? 0 }
}

function grab(event: PointerEvent, placedSpecimen: PlacedSpecimen) {
  if (props.tool) return
  emit('pick', placedSpecimen.id)
  event.stopPropagation()
  if (!props.live || placedSpecimen.locked) return
  const { x, y } = spot(event)
  held = {
    id: placedSpecimen.id,
    dx: at(placedSpecimen).x - x,
    dy: at(placedSpecimen).y - y,
    moved: false,
  }
  drawing.value!.setPointerCapture(event.pointerId)
}

function begin(event: PointerEvent) {
  if (props.still) return
  if (!props.tool) {
    emit('pick', null)
    panned = { x: event.clientX, y: event.clientY }
    return
  }
  if (props.tool === 'polygon') {
    spots.value = spots.value.length
      ? [...spots.value.slice(0, -1), spot(event), spot(event)]
      : [spot(event), spot(event)]
    return
  }
  spots.value = [spot(event), spot(event)]
  drawing.value!.setPointerCapture(event.pointerId)
}

function go(event: PointerEvent) {
  if (spots.value.length) spots.value = [...spots.value.slice(0, -1), spot(event)]
  if (held) {
    const { x, y } = spot(event)
    held.moved = true
    emit('drag', held.id, x + held.dx, y + held.dy)
  }
  if (panned && event.buttons) {
    const perPixel = shown.value.width / drawing.value!.clientWidth
    pan((panned.x - event.clientX) * perPixel, (panned.y - event.clientY) * perPixel)
    panned = { x: event.clientX, y: event.clientY }
  }
}

function end(event: PointerEvent) {
  panned = null
  if (spots.value.length && props.tool !== 'polygon') finish()
  if (held?.moved) {
    const { x, y } = spot(event)
    emit('drop', held.id, x + held.dx, y + held.dy)
  }
  held = null
}

/** The area is drawn; a polygon ends by a double click or by Enter. */
function finish() {
  const corners = props.tool === 'polygon' ? distinct(spots.value) : area.value
  const [first, last] = [spots.value[0], spots.value[spots.value.length - 1]]
  const dragged = first && last && Math.hypot(last.x - first.x, last.y - first.y) > 2
  if (corners.length > 2 && (dragged || props.tool === 'polygon')) emit('area', corners)
  spots.value = []
}
function distinct(list: Spot[]): Spot[] {
  return list.filter(
    (point, place) =>
      place === 0 || Math.hypot(point.x - list[place - 1]!.x, point.y - list[place - 1]!.y) > 1,
  )
}
defineExpose({ finish, forget: () => (spots.value = []), zoom, reset })

function wheel(event: WheelEvent) {
  if (props.still) return
  event.preventDefault()
  const { x, y } = spot(event)
  zoom(event.deltaY < 0 ? 1.25 : 0.8, { x, y: up(y) })
}

function shifted(placedSpecimen: PlacedSpecimen, points: Spot[]): string {
  const dx = at(placedSpecimen).x - (placedSpecimen.x_mm ?? 0)
  const dy = at(placedSpecimen).y - (placedSpecimen.y_mm ?? 0)
  return points.map(({ x, y }) => `${x + dx},${up(y + dy)}`).join(' ')
}

const placed = computed(() => props.sheet.specimens.filter((specimen) => specimen.x_mm !== null))
const corners = (points: Spot[]) => points.map(({ x, y }) => `${x},${up(y)}`).join(' ')
function middle(points: Spot[]) {
  const xs = points.map(({ x }) => x)
  const ys = points.map(({ y }) => y)
  return {
    x: (Math.min(...xs) + Math.max(...xs)) / 2,
    y: up((Math.min(...ys) + Math.max(...ys)) / 2),
  }
}
/** The name of a specimen along its long side, as large as fits; none where it could not be read. */
function label(placedSpecimen: PlacedSpecimen) {
  const { x, y } = at(placedSpecimen)
  const upright = placedSpecimen.along_mm > placedSpecimen.across_mm * 1.2
  const narrow = Math.min(placedSpecimen.across_mm, placedSpecimen.along_mm)
  const wide = Math.max(placedSpecimen.across_mm, placedSpecimen.along_mm)
  const size = Math.min(
    FIGURE_PX * 1.15 * unit.value,
    narrow * 0.62,
    (1.5 * wide) / placedSpecimen.name.length,
  )
  const off = placedSpecimen.disc || wide < 1.2 * narrow ? 0 : 0.18 * wide
  const spotOf = upright ? { x, y: up(y + off) } : { x: x + off, y: up(y) }
  return {
    size,
    shown: size > SMALLEST_LABEL_PX * unit.value,
    transform: `translate(${spotOf.x} ${spotOf.y})${upright && narrow < wide / 3 ? ' rotate(-90)' : ''}`,
  }
}
const chosen = computed(() => placed.value.find((point) => point.id === props.selected) ?? null)
const torn = computed(() => {
  const width = props.sheet.width_mm
  const step = width / 24
  const teeth = Array.from(
    { length: 25 },
    (_, n) => `${n * step},${n % 2 ? -0.2 * step : 0.2 * step}`,
  )
  return `0,${long.value} ${teeth.join(' ')} ${width},${long.value}`
})
</script>

<template>
  <div class="frame">
    <svg
      ref="drawing"
      class="sheet"
      :class="{ marking: tool, live, zoomed: scale > 1 }"
      :viewBox="view"
      :preserveAspectRatio="still ? 'xMidYMid meet' : 'xMidYMin meet'"
      role="group"
      :aria-label="`Sheet ${sheet.width_mm} mm across, ${sheet.length_mm} mm along the roll`"
      @pointerdown="begin"
      @pointermove="go"
      @pointerup="end"
      @dblclick="tool === 'polygon' && finish()"
      @wheel="wheel"
    >
      <HatchPatterns :tests="sheet.tests" :name="name" :unit="unit" />
      <polygon v-if="brokenOff" :points="torn" class="cloth" />
      <rect v-else :width="sheet.width_mm" :height="long" class="cloth" />
      <template v-if="Number.isFinite(selvedge)">
        <rect :width="selvedge" :height="long" class="margin" />
        <rect :x="sheet.width_mm - selvedge" :width="selvedge" :height="long" class="margin" />
      </template>
      <rect
        v-if="!brokenOff"
        :width="sheet.width_mm"
        :height="sheet.end_margin_mm"
        class="margin"
      />
      <rect
        :y="long - sheet.end_margin_mm"
        :width="sheet.width_mm"
        :height="sheet.end_margin_mm"
        class="margin"
      />
      <polygon v-if="brokenOff" :points="torn" class="outline" />
      <rect v-else :width="sheet.width_mm" :height="long" class="outline" />

      <polygon
        v-for="(shape, place) in sheet.avoided"
        :key="`a${place}`"
        :points="corners(shape.corners)"
        class="avoided"
        :fill="`url(#${name}-avoid)`"
      />

      <g
        v-for="shape in placed"
        :key="shape.id"
        class="piece"
        :class="{
          guilty: guilty.has(shape.id),
          chosen: shape.id === selected,
          spare: shape.spare,
          locked: shape.locked,
        }"
        :data-name="shape.name"
        @pointerdown="grab($event, shape)"
      >
        <polygon :points="shifted(shape, shape.outline)" class="ground" />
        <polygon
          :points="shifted(shape, shape.outline)"
          class="edge"
          :fill="hatchOf.get(shape.test_id) ?? 'none'"
        />
        <polyline
          v-for="(mark, place) in shape.inner_marks"
          :key="place"
          :points="shifted(shape, mark.points)"
          class="inner"
        />
        <text
          v-if="label(shape).shown"
          :transform="label(shape).transform"
          :font-size="label(shape).size"
          :stroke-width="label(shape).size * 0.42"
          text-anchor="middle"
          dy=".35em"
          class="label"
        >
          {{ shape.name }}
        </text>
        <path
          v-if="shape.locked"
          class="pin"
          :transform="`translate(${at(shape).x} ${up(at(shape).y)}) scale(${unit * 1.2})`"
          d="M-5 -1h10v8h-10zM-3.2 -1v-3a3.2 3.2 0 0 1 6.4 0v3"
        />
      </g>

      <text
        v-for="(shape, place) in sheet.avoided"
        :key="`r${place}`"
        v-bind="middle(shape.corners)"
        class="reason"
        :font-size="FIGURE_PX * unit"
        :stroke-width="5 * unit"
        text-anchor="middle"
        dy=".35em"
      >
        {{ shape.reason }}
      </text>

      <rect
        v-for="(rule, place) in broken ?? []"
        :key="`b${place}`"
        :x="rule.where.left"
        :y="up(rule.where.far)"
        :width="Math.max(rule.where.right - rule.where.left, 3 * unit)"
        :height="Math.max(rule.where.far - rule.where.near, 3 * unit)"
        class="broken"
      />
      <g v-if="chosen" class="dimensions">
        <path
          :d="`M0 ${up(at(chosen).y)}H${at(chosen).x - chosen.across_mm / 2}M${at(chosen).x} ${long}V${up(at(chosen).y - chosen.along_mm / 2)}`"
        />
        <text
          :x="8 * unit"
          :y="up(at(chosen).y) - 6 * unit"
          :font-size="FIGURE_PX * unit"
          :stroke-width="5 * unit"
        >
          {{ fixed(at(chosen).x - chosen.across_mm / 2, 1) }}
        </text>
        <text
          :x="at(chosen).x + 7 * unit"
          :y="long - 8 * unit"
          :font-size="FIGURE_PX * unit"
          :stroke-width="5 * unit"
        >
          {{ fixed(at(chosen).y - chosen.along_mm / 2, 1) }}
        </text>
      </g>
      <polygon
        v-if="area.length"
        :points="corners(area)"
        class="avoided"
        :fill="`url(#${name}-avoid)`"
      />
      <text class="axis" :x="0" :y="long + 20 * unit" :font-size="14 * unit">
        cut end · {{ sheet.width_mm }} mm across the roll
      </text>
      <text
        class="axis"
        :font-size="14 * unit"
        :transform="`translate(${-8 * unit} ${long}) rotate(-90)`"
      >
        left selvedge · {{ fixed(sheet.length_mm, 0) }} mm along the roll
      </text>
    </svg>
    <div v-if="!still" class="zooming">
      <button class="plain" aria-label="Closer" title="Closer" @click="zoom(1.5)">+</button>
      <button class="plain" aria-label="Farther" title="Farther" @click="zoom(1 / 1.5)">−</button>
      <button v-if="scale > 1" class="plain small" @click="reset()">whole</button>
    </div>
  </div>
</template>

<style scoped>
.frame {
  position: relative;
  height: 100%;
}

.sheet {
  display: block;
  width: 100%;
  height: 100%;
  touch-action: none;
  user-select: none;
}

.zoomed {
  cursor: move;
}

.zooming {
  position: absolute;
  right: 0;
  bottom: 0;
  display: flex;
  background: var(--page);
}

.zooming button {
  min-width: 36px;
  min-height: 36px;
  border: 1px solid var(--hair);
  color: var(--ink-2);
  font-size: 20px;
}

.zooming .small {
  padding: 0 10px;
  font-size: 14px;
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

.reason {
  fill: var(--brick);
  font-weight: 700;
  paint-order: stroke;
  stroke: var(--page);
  pointer-events: none;
}

.ground {
  fill: var(--page);
}

.edge {
  stroke: var(--ink);
  stroke-width: 1.4px;
  vector-effect: non-scaling-stroke;
}

.live .piece {
  cursor: grab;
}

.live .locked {
  cursor: default;
}

.marking,
.marking .piece {
  cursor: crosshair;
}

.spare .edge {
  stroke-dasharray: 6 4;
}

.inner {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.3px;
  vector-effect: non-scaling-stroke;
}

.label {
  fill: var(--ink);
  font-family: var(--mono);
  font-weight: 700;
  paint-order: stroke;
  stroke: var(--page);
  stroke-linejoin: round;
  pointer-events: none;
}

.pin {
  fill: var(--ochre);
  stroke: var(--ink);
  stroke-width: 1.2;
}

.chosen .ground {
  fill: var(--blue-wash);
}

.chosen .label {
  stroke: var(--blue-wash);
}

.chosen .edge {
  stroke: var(--blue);
  stroke-width: 2.5px;
}

.guilty .edge {
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
  paint-order: stroke;
  stroke: var(--page);
}

.dimensions {
  pointer-events: none;
}

.axis {
  fill: var(--ink-2);
  font-family: var(--mono);
}
</style>
