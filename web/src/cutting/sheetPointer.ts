import { computed, ref, type Ref } from 'vue'
import type { PlacedSpecimen } from '@/api/client'
import { cornersOf, type AreaTool, type Spot } from '@/cutting/areas'

/** A hand that moved less than this marked nothing. */
const LEAST_DRAG_MM = 2
const SAME_SPOT_MM = 1

interface Hand {
  pick(id: number | null): void
  drag(id: number, x: number, y: number): void
  drop(id: number, x: number, y: number): void
  area(corners: Spot[]): void
}

interface Held {
  drawing: Ref<SVGSVGElement | null>
  props: Readonly<{ tool?: AreaTool | null; bandMm?: number; live?: boolean; still?: boolean }>
  /** From the drawing's y, downwards, to mm from the cut end, and back. */
  up: (y: number) => number
  at: (specimen: PlacedSpecimen) => Spot
  shown: Ref<{ width: number }>
  pan: (dx: number, dy: number) => void
  zoom: (factor: number, about?: Spot) => void
}

const apart = (a: Spot, b: Spot) => Math.hypot(a.x - b.x, a.y - b.y)
const distinct = (spots: Spot[]) =>
  spots.filter((spot, place) => place === 0 || apart(spot, spots[place - 1]!) > SAME_SPOT_MM)

/** What a hand does to the drawing of a sheet: drags a specimen, draws an area, moves what is shown. */
export function useSheetPointer({ drawing, props, up, at, shown, pan, zoom }: Held, hand: Hand) {
  let held: { id: number; dx: number; dy: number; moved: boolean } | null = null
  let panned: Spot | null = null
  const spots = ref<Spot[]>([])
  const area = computed(() => cornersOf(props.tool ?? 'box', spots.value, props.bandMm ?? 30))

  function spotOf(event: MouseEvent): Spot {
    const matrix = drawing.value!.getScreenCTM()!.inverse()
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix)
    return { x: point.x, y: up(point.y) }
  }

  function grab(event: PointerEvent, specimen: PlacedSpecimen) {
    if (props.tool) return
    hand.pick(specimen.id)
    event.stopPropagation()
    if (!props.live || specimen.locked) return
    const { x, y } = spotOf(event)
    held = { id: specimen.id, dx: at(specimen).x - x, dy: at(specimen).y - y, moved: false }
    drawing.value!.setPointerCapture(event.pointerId)
  }

  function begin(event: PointerEvent) {
    if (props.still) return
    if (!props.tool) {
      hand.pick(null)
      panned = { x: event.clientX, y: event.clientY }
      return
    }
    const earlier = props.tool === 'polygon' ? spots.value.slice(0, -1) : []
    spots.value = [...earlier, spotOf(event), spotOf(event)]
    if (props.tool !== 'polygon') drawing.value!.setPointerCapture(event.pointerId)
  }

  function go(event: PointerEvent) {
    if (spots.value.length) spots.value = [...spots.value.slice(0, -1), spotOf(event)]
    if (held) {
      const { x, y } = spotOf(event)
      held.moved = true
      hand.drag(held.id, x + held.dx, y + held.dy)
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
      const { x, y } = spotOf(event)
      hand.drop(held.id, x + held.dx, y + held.dy)
    }
    held = null
  }

  /** The area is drawn; a polygon ends by a double click or by Enter. */
  function finish() {
    const isPolygon = props.tool === 'polygon'
    const corners = isPolygon ? distinct(spots.value) : area.value
    const [first, last] = [spots.value[0], spots.value[spots.value.length - 1]]
    const isDragged = first && last && apart(first, last) > LEAST_DRAG_MM
    if (corners.length > 2 && (isDragged || isPolygon)) hand.area(corners)
    spots.value = []
  }

  function wheel(event: WheelEvent) {
    if (props.still) return
    event.preventDefault()
    const { x, y } = spotOf(event)
    zoom(event.deltaY < 0 ? 1.25 : 0.8, { x, y: up(y) })
  }

  return { area, grab, begin, go, end, finish, wheel, forget: () => (spots.value = []) }
}
