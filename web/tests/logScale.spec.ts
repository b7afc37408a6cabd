import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import { endOf, footOf, LEFT, scaleOf, stripsOf, ticksOf } from '@/conditioning/logScale'

const HOUR = 3_600_000
const START = Date.parse('2026-03-02T07:00:00Z')
const at = (hour: number) => new Date(START + hour * HOUR).toISOString()
const room = {
  temperature_c: 20,
  temperature_tolerance_c: 2,
  humidity_percent: 65,
  humidity_tolerance_percent: 4,
} as Schemas['EnclosureView']
type Points = Schemas['LogView']['points']

describe('the log of a room', () => {
  it('ends a little after now and after what runs, but not far into the future', () => {
    const now = START + 24 * HOUR
    expect(endOf(START, now, []) - now).toBe(0.48 * HOUR)
    expect(endOf(START, now, [now - HOUR])).toBe(endOf(START, now, []))
    expect(endOf(START, now, [now + 6 * HOUR]) - now).toBe(6.48 * HOUR)
    expect(endOf(START, now, [now + 300 * HOUR]) - now).toBeCloseTo(0.6 * 24 * HOUR)
  })

  it('goes from the left edge to the right one', () => {
    const x = scaleOf(START, START + 10 * HOUR, 820)
    expect(x(START)).toBe(LEFT)
    expect(x(START + 10 * HOUR)).toBe(814)
    expect(x(START + 5 * HOUR)).toBe((LEFT + 814) / 2)
  })

  it('draws each quantity in its band, which fills most of its strip', () => {
    const points = [[at(0), 20, 65]] as Points
    const [celsius, percent] = stripsOf(points, room, (moment) => moment - START, START)
    expect([celsius!.low, celsius!.high, percent!.low, percent!.high]).toEqual([18, 22, 61, 69])
    expect(celsius!.y(18) - celsius!.y(22)).toBeCloseTo(0.88 * 132)
    expect(percent!.y(65)).toBeGreaterThan(celsius!.y(18))
    expect(footOf([celsius!, percent!])).toBe(8 + 2 * 146)
  })

  it('makes room for what went further out, and leaves gaps open', () => {
    const points = [
      [at(-1), 20, null],
      [at(0), 20, null],
      [at(0.2), 30, null],
      [at(2), 20, null],
    ] as Points
    const [strip] = stripsOf(points, room, (moment) => (moment - START) / HOUR, START)
    expect(strip!.y(30)).toBeGreaterThan(8)
    const path = strip!.path
    expect(path.match(/M/g)).toHaveLength(2)
    expect(path.match(/L/g)).toHaveLength(1)
    expect(path.startsWith('M0 ')).toBe(true)
  })

  it('has no humidity where the room controls none', () => {
    const oven = { ...room, humidity_percent: null }
    expect(stripsOf([], oven, (moment) => moment, START)).toHaveLength(1)
  })

  it('marks few whole hours, and names the day at midnight', () => {
    const text = (hours: number) => ticksOf(START, START + hours * HOUR).map((tick) => tick.text)
    expect(text(4)).toEqual(['09:00', '10:00', '11:00'])
    expect(text(24)).toEqual([
      '09:00',
      '12:00',
      '15:00',
      '18:00',
      '21:00',
      'Tue 3',
      '03:00',
      '06:00',
    ])
    expect(text(24 * 14).length).toBeLessThanOrEqual(9)
  })
})
