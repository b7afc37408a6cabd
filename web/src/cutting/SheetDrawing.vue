<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref, useId } from 'vue'
import type { BrokenRule, PlacedSpecimen, SheetView } from '@/api/client'
import HatchPatterns from '@/ui/HatchPatterns.vue'
import type { AreaTool, Spot } from '@/cutting/areas'
import { useSheetPointer } from '@/cutting/sheetPointer'
import SheetCloth from '@/cutting/SheetCloth.vue'
import SheetDistances from '@/cutting/SheetDistances.vue'
import SheetPiece from '@/cutting/SheetPiece.vue'
import { useZoom } from '@/ui/zoom'
import ActButton from '@/ui/ActButton.vue'

/** The sheet to scale in true shape; specimens are dragged and areas drawn while it is `live`. */
const props = defineProps<{
  sheet: Pick<
    SheetView,
    'width_mm' | 'length_mm' | 'end_margin_mm' | 'moulded' | 'avoided' | 'specimens' | 'tests'
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
const name = useId()
const drawing = ref<SVGSVGElement | null>(null)
const long = computed(() => Math.min(props.shownMm ?? Infinity, props.sheet.length_mm))
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

function at(specimen: PlacedSpecimen): Spot {
  if (props.ghost?.id === specimen.id) return { x: props.ghost.x, y: props.ghost.y }
  return { x: specimen.x_mm ?? 0, y: specimen.y_mm ?? 0 }
}

const { area, grab, begin, go, end, finish, wheel, forget } = useSheetPointer(
  { drawing, props, up, at, shown, pan, zoom },
  {
    pick: (id) => emit('pick', id),
    drag: (id, x, y) => emit('drag', id, x, y),
    drop: (id, x, y) => emit('drop', id, x, y),
    area: (marked) => emit('area', marked),
  },
)
defineExpose({ finish, forget, zoom, reset })

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
const chosen = computed(() => placed.value.find((point) => point.id === props.selected) ?? null)
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
      :aria-label="
        t('cutting.sheet-mm-wide-mm-long', { width_mm: sheet.width_mm, length_mm: sheet.length_mm })
      "
      @pointerdown="begin"
      @pointermove="go"
      @pointerup="end"
      @dblclick="tool === 'polygon' && finish()"
      @wheel="wheel"
    >
      <HatchPatterns :tests="sheet.tests" :name="name" :unit="unit" />
      <SheetCloth
        :width-mm="sheet.width_mm"
        :length-mm="sheet.length_mm"
        :shown-mm="long"
        :end-margin-mm="sheet.end_margin_mm"
        :selvedge-mm="selvedge"
        :moulded="sheet.moulded"
        :unit="unit"
      />
      <polygon
        v-for="(shape, place) in sheet.avoided"
        :key="`a${place}`"
        :points="corners(shape.corners)"
        class="avoided"
        :fill="`url(#${name}-avoid)`"
      />

      <SheetPiece
        v-for="shape in placed"
        :key="shape.id"
        :specimen="shape"
        :at="at(shape)"
        :up="up"
        :unit="unit"
        :hatch="hatchOf.get(shape.test_id) ?? 'none'"
        :is-chosen="shape.id === selected"
        :is-guilty="guilty.has(shape.id)"
        @pointerdown="grab($event, shape)"
      />

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
      <SheetDistances
        v-if="chosen"
        :specimen="chosen"
        :at="at(chosen)"
        :up="up"
        :unit="unit"
        :shown-mm="long"
      />
      <polygon
        v-if="area.length"
        :points="corners(area)"
        class="avoided"
        :fill="`url(#${name}-avoid)`"
      />
    </svg>
    <div v-if="!still" class="zooming">
      <ActButton
        kind="plain"
        :aria-label="t('cutting.closer')"
        :title="t('cutting.closer')"
        @click="zoom(1.5)"
        >+</ActButton
      >
      <ActButton
        kind="plain"
        :aria-label="t('cutting.farther')"
        :title="t('cutting.farther')"
        @click="zoom(1 / 1.5)"
        >−</ActButton
      >
      <ActButton v-if="scale > 1" kind="plain" class="small" @click="reset()">{{
        t('cutting.whole')
      }}</ActButton>
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

.broken {
  fill: var(--brick);
  opacity: 0.42;
  pointer-events: none;
}
</style>
