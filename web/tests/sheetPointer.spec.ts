import { ref } from 'vue'
import { describe, expect, it, vi } from 'vitest'
import type { PlacedSpecimen } from '@/api/client'
import type { AreaTool } from '@/cutting/areas'
import { useSheetPointer } from '@/cutting/sheetPointer'

const LONG_MM = 1000

/** A drawing of a pixel a millimetre, whose y runs downwards from the far end. */
function hold(props: { tool?: AreaTool; live?: boolean; still?: boolean; bandMm?: number }) {
  vi.stubGlobal(
    'DOMPoint',
    class {
      constructor(
        private x: number,
        private y: number,
      ) {}
      matrixTransform = () => ({ x: this.x, y: this.y })
    },
  )
  const drawing = {
    getScreenCTM: () => ({ inverse: () => ({}) }),
    setPointerCapture: () => undefined,
    clientWidth: 500,
  } as unknown as SVGSVGElement
  const hand = { pick: vi.fn(), drag: vi.fn(), drop: vi.fn(), area: vi.fn() }
  const pan = vi.fn()
  const pointer = useSheetPointer(
    {
      drawing: ref(drawing),
      props,
      up: (y) => LONG_MM - y,
      at: () => ({ x: 100, y: 200 }),
      shown: ref({ width: 1000 }),
      pan,
      zoom: vi.fn(),
    },
    hand,
  )
  return { hand, pan, pointer }
}
const event = (clientX: number, clientY: number) =>
  ({
    clientX,
    clientY,
    buttons: 1,
    pointerId: 1,
    stopPropagation: () => undefined,
  }) as unknown as PointerEvent
const specimen = (locked: boolean) => ({ id: 7, locked }) as PlacedSpecimen

describe('a hand on the drawing of a sheet', () => {
  it('takes a specimen along by where it was grabbed', () => {
    const { hand, pointer } = hold({ live: true })
    pointer.grab(event(110, 790), specimen(false))
    pointer.go(event(150, 690))
    pointer.end(event(150, 690))
    expect(hand.pick).toHaveBeenCalledWith(7)
    expect(hand.drop).toHaveBeenCalledWith(7, 140, 300)
  })

  it('leaves a specimen that is locked, or only picked, where it is', () => {
    const { hand, pointer } = hold({ live: true })
    pointer.grab(event(110, 790), specimen(true))
    pointer.go(event(150, 690))
    pointer.end(event(150, 690))
    pointer.grab(event(110, 790), specimen(false))
    pointer.end(event(110, 790))
    expect(hand.drag).not.toHaveBeenCalled()
    expect(hand.drop).not.toHaveBeenCalled()
  })

  it('marks a box, but not where the hand only twitched', () => {
    const { hand, pointer } = hold({ tool: 'box' })
    pointer.begin(event(10, 900))
    pointer.go(event(11, 900))
    pointer.end(event(11, 900))
    expect(hand.area).not.toHaveBeenCalled()
    pointer.begin(event(10, 900))
    pointer.go(event(60, 850))
    pointer.end(event(60, 850))
    const [corners] = hand.area.mock.calls[0] as [{ x: number; y: number }[]]
    expect(corners).toHaveLength(4)
    expect(new Set(corners.map(({ x }) => x))).toEqual(new Set([10, 60]))
    expect(new Set(corners.map(({ y }) => y))).toEqual(new Set([100, 150]))
  })

  it('ends a polygon when it is told to, and counts a double click as one corner', () => {
    const { hand, pointer } = hold({ tool: 'polygon' })
    for (const [x, y] of [
      [10, 900],
      [60, 900],
      [60, 850],
      [60, 850],
    ] as const) {
      pointer.begin(event(x, y))
      pointer.end(event(x, y))
    }
    expect(hand.area).not.toHaveBeenCalled()
    pointer.finish()
    expect(hand.area).toHaveBeenCalledWith([
      { x: 10, y: 100 },
      { x: 60, y: 100 },
      { x: 60, y: 150 },
    ])
  })

  it('moves what is shown by the drawing, not by the screen', () => {
    const { pan, pointer } = hold({ live: true })
    pointer.begin(event(100, 100))
    pointer.go(event(90, 105))
    expect(pan).toHaveBeenCalledWith(20, -10)
  })
})
