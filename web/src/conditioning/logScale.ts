import type { Schemas } from '@/api/client'
import { clockTime, shortMoment } from '@/ui/dates'
import { coordinate } from '@/ui/numbers'

/** The geometry of a room's log: hours from left to right, each quantity in a strip of its own. */
export const LEFT = 64
export const TOP = 8
const STRIP = 132
const SPACE = 14
const RIGHT = 6
/** The share of the strip that the band fills. */
const BAND_SHARE = 0.88
const GAP_MS = 16 * 60_000
const HOUR = 3_600_000

export interface Strip {
  unit: string
  low: number
  high: number
  path: string
  y: (value: number) => number
}

/** Where the drawing ends: a little after now and after the periods that run, but not far into the future. */
export function endOf(start: number, now: number, ends: number[]): number {
  const ahead = Math.max(now, ...ends.filter((end) => end > now))
  return Math.min(ahead + (now - start) * 0.02, now + (now - start) * 0.6)
}

/** Where a moment stands in a drawing that is so wide. */
export function scaleOf(start: number, end: number, wide: number) {
  return (at: number) => LEFT + ((at - start) / (end - start)) * (wide - LEFT - RIGHT)
}

/** One quantity: its band fills most of the strip, unless the log went further out. */
function stripOf(
  points: Schemas['LogView']['points'],
  place: 1 | 2,
  unit: string,
  set: number,
  tolerance: number,
  x: (at: number) => number,
  start: number,
): Strip {
  const values = points.map((point) => point[place]).filter((value) => value !== null)
  const reach = Math.max(
    tolerance / BAND_SHARE,
    1.12 * Math.max(0, ...values.map((value) => Math.abs(value - set))),
  )
  const top = TOP + (place - 1) * (STRIP + SPACE)
  const y = (value: number) => top + STRIP / 2 - ((value - set) / reach) * (STRIP / 2)
  let path = ''
  let before = 0
  for (const point of points) {
    const at = Date.parse(point[0])
    const value = point[place]
    if (value === null || at < start) continue
    path += `${path && at - before < GAP_MS ? 'L' : 'M'}${coordinate(x(at))} ${coordinate(y(value))}`
    before = at
  }
  return { unit, low: set - tolerance, high: set + tolerance, path, y }
}

/** The strips of a room: temperature, and humidity where the room controls it. */
export function stripsOf(
  points: Schemas['LogView']['points'],
  room: Schemas['EnclosureView'],
  x: (at: number) => number,
  start: number,
): Strip[] {
  const { temperature_c: t, temperature_tolerance_c: tt } = room
  const strips = [stripOf(points, 1, '°C', t, tt, x, start)]
  const { humidity_percent: h, humidity_tolerance_percent: ht } = room
  if (h !== null) strips.push(stripOf(points, 2, '%RH', h, ht ?? 1, x, start))
  return strips
}

/** Where the strips end. */
export function footOf(strips: Strip[]): number {
  return TOP + strips.length * (STRIP + SPACE)
}

/** At most nine hours on the axis; midnight is named by its day. */
export function ticksOf(start: number, end: number): { at: number; text: string }[] {
  const hours = (end - start) / HOUR
  const step = [1, 2, 3, 6, 12, 24, 48, 96].find((each) => hours / each <= 9) ?? 168
  const first = new Date(start)
  first.setMinutes(0, 0, 0)
  first.setHours(Math.ceil((first.getHours() + 1) / step) * step)
  const ticks: { at: number; text: string }[] = []
  for (let at = first.getTime(); at < end; at += step * HOUR) {
    const iso = new Date(at).toISOString()
    const isMidnight = new Date(at).getHours() === 0
    ticks.push({ at, text: isMidnight ? shortMoment(iso).split(',')[0]! : clockTime(iso) })
  }
  return ticks
}
