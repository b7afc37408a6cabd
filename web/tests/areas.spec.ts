import { expect, it } from 'vitest'
import { cornersOf, usedMm } from '@/cutting/areas'

it('gives a box its four corners whichever way it was drawn', () => {
  const corners = cornersOf(
    'box',
    [
      { x: 90, y: 40 },
      { x: 10, y: 5 },
    ],
    30,
  )
  expect(corners).toHaveLength(4)
  expect(new Set(corners.map(({ x }) => x))).toEqual(new Set([10, 90]))
})

it('lays a band of its width along the line that was drawn', () => {
  const corners = cornersOf(
    'band',
    [
      { x: 0, y: 0 },
      { x: 30, y: 40 },
    ],
    10,
  )
  const [a, b, c, d] = corners as { x: number; y: number }[]
  const apart = (p: typeof a, q: typeof a) => Math.hypot(p!.x - q!.x, p!.y - q!.y)
  expect(apart(a, b)).toBeCloseTo(50)
  expect(apart(b, c)).toBeCloseTo(10)
  expect(apart(c, d)).toBeCloseTo(50)
})

it('is nothing before there are two spots, and for a band of no length', () => {
  expect(cornersOf('polygon', [{ x: 1, y: 1 }], 30)).toEqual([])
  expect(
    cornersOf(
      'band',
      [
        { x: 1, y: 1 },
        { x: 1.2, y: 1 },
      ],
      30,
    ),
  ).toEqual([])
})

it('shows as much of the roll as something lies on', () => {
  const outline = [
    { x: 0, y: 0 },
    { x: 0, y: 700 },
  ]
  const sheet = { width_mm: 1000, specimens: [{ x_mm: 5, outline }], avoided: [] }
  expect(usedMm(sheet as never)).toBeCloseTo(700 + 120)
  expect(usedMm({ width_mm: 1000, specimens: [], avoided: [] })).toBe(Infinity)
})
