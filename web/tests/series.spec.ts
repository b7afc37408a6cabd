import { describe, expect, it } from 'vitest'
import { dueOf, itemsOf, rodsOf, stairsOf } from '@/bench/procedures/series'
import type { BenchView } from '@/bench/bench'

describe('a staircase of drops', () => {
  const drops = [
    { mass_g: 150, failed: true },
    { mass_g: 135, failed: false },
  ]

  it('stands each drop at its mass, the heavier the higher, and the due one after them', () => {
    const { stairs, due } = stairsOf(drops, 150)
    expect(stairs.map((stair) => stair.failed)).toEqual([true, false])
    expect(stairs[0]!.y).toBeLessThan(stairs[1]!.y)
    expect(due!.y).toBe(stairs[0]!.y)
    expect(due!.x).toBeGreaterThan(stairs[1]!.x)
  })

  it('takes the mass that is due from the server, where there is one', () => {
    const view = (due: unknown) => ({ series: [{ due, items: [] }] }) as unknown as BenchView
    expect(dueOf(view({ mass_g: 142.5 }))).toBe(142.5)
    expect(dueOf(view({ position: '2-3' }))).toBeNull()
    expect(dueOf(view(null))).toBeNull()
  })

  it('is one spot before the first drop', () => {
    const { stairs, due } = stairsOf([], 150)
    expect(stairs).toEqual([])
    expect(Number.isFinite(due!.y)).toBe(true)
  })
})

describe('what a series gave', () => {
  it('leaves out plain values, which are drawn otherwise', () => {
    const view = { series: [{ items: ['3-4', { count: 50 }] }] } as unknown as BenchView
    expect(itemsOf(view)).toEqual([{ count: 50 }])
    expect(itemsOf({ series: [] } as unknown as BenchView)).toEqual([])
  })

  it('shows cuts by their mass and travels by their time', () => {
    const [cut, travel] = rodsOf([
      { mass_g: 0.056, length_mm: 15, bubbles: true },
      { length_mm: 9, time_s: 12 },
    ])
    expect(cut).toEqual({ length: 15, mass: '0.056 g', bubbles: true })
    expect(travel).toEqual({ length: 9, mass: '12 s', bubbles: false })
  })
})
