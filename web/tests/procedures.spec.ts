import { describe, expect, it } from 'vitest'
import { netOf, sagAt, seen, type Sunk } from '@/bench/procedures/bent'
import { halvesOf } from '@/bench/procedures/recorded'

describe('a pair while it is recorded', () => {
  it('is two curves from where the jaws have gone back', () => {
    const [unsewn, sewn] = halvesOf([0, 5, 12, 0.1, 6], [0, 40, 200, 0, 20])
    expect(unsewn).toEqual({ x: [0, 5, 12], y: [0, 40, 200] })
    expect(sewn).toEqual({ x: [0.1, 6], y: [0, 20] })
  })

  it('is one curve before, whatever small steps it takes back', () => {
    expect(halvesOf([0, 1, 0.8, 5, 4.9], [0, 1, 1, 2, 2])).toHaveLength(1)
  })
})

describe('a bent pallet', () => {
  const sensors: Sunk[] = [
    { name: 'left', x: 0, y: 500, mm: 2 },
    { name: 'middle', x: 600, y: 500, mm: 10 },
    { name: 'right', x: 1200, y: 500, mm: 3 },
  ]

  it('sinks at a sensor by what the sensor saw, and between two by something between', () => {
    expect(sagAt(sensors, 600, 500)).toBe(10)
    const between = sagAt(sensors, 300, 500)
    expect(between).toBeGreaterThan(2)
    expect(between).toBeLessThan(10)
  })

  it('is seen lower where it sank more', () => {
    const flat = seen(sensors, 600, 500, 0)
    expect(seen(sensors, 600, 500, 10).y).toBeGreaterThan(flat.y)
    expect(seen(sensors, 600, 500, 10).x).toBe(flat.x)
  })

  it('is a net of lines both ways, and none without sensors', () => {
    expect(netOf(sensors)).toHaveLength(18)
    expect(netOf([])).toEqual([])
  })
})
