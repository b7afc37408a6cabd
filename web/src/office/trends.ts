import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import { three } from '@/ui/numbers'

export type Trend = Schemas['TrendsView']
export type Rule = Trend['points'][number]['signals'][number]

export interface Line {
  y: number
  kind: 'centre' | 'limit' | 'required'
  label: string
}

export interface Spot {
  x: number
  y: number
  jobId: number
  text: string
  isSignal: boolean
}

/** A lot's name under its place. */
export interface Foot {
  x: number
  text: string
}

export interface Chart {
  spots: Spot[]
  lines: Line[]
  baseEnd: number
}

export const PLOT = { wide: 1000, high: 300, left: 8, right: 92, above: 16, below: 16 }

/** Where a lot stands, from left to right. */
export function columnOf(place: number, lots: number): number {
  const room = PLOT.wide - PLOT.left - PLOT.right
  return PLOT.left + (room * (place + 0.5)) / Math.max(lots, 1)
}

/** Where values stand, so that all of them and every line are on the picture. */
function scaleOf(values: number[], high: number): (value: number) => number {
  const least = Math.min(...values)
  const most = Math.max(...values)
  const span = most - least || 1
  const room = high - PLOT.above - PLOT.below
  return (value) => PLOT.above + room * (1 - (value - least) / span)
}

/** The signals of a lot that are not switched off. */
export const signalsOf = (point: Trend['points'][number], off: Set<Rule>) =>
  point.signals.filter((rule) => !off.has(rule))

/** The lots between their control limits, with the requirement in the same picture. */
export function valuesChart(trend: Trend, off: Set<Rule>): Chart {
  const { limits, points } = trend
  const lines = [
    { value: limits?.upper, kind: 'limit', label: t('office.upper-limit') },
    { value: limits?.centre, kind: 'centre', label: t('office.centre') },
    { value: limits?.lower, kind: 'limit', label: t('office.lower-limit') },
    { value: trend.required_low, kind: 'required', label: t('office.required-at-least') },
    { value: trend.required_high, kind: 'required', label: t('office.required-at-most') },
  ].filter((line) => line.value != null) as (Omit<Line, 'y'> & { value: number })[]
  const scale = scaleOf(
    [...points.map((point) => point.value), ...lines.map(({ value }) => value)],
    PLOT.high,
  )
  return {
    spots: points.map((point, place) => ({
      x: columnOf(place, points.length),
      y: scale(point.value),
      jobId: point.job_id,
      text: t('office.lot-of-job', { lot: point.lot, number: point.number, figure: point.text }),
      isSignal: signalsOf(point, off).length > 0,
    })),
    lines: lines.map(({ value, kind, label }) => ({
      y: scale(value),
      kind,
      label: `${label} ${three(value)}`,
    })),
    baseEnd: columnOf(trend.base - 0.5, points.length),
  }
}

const MAX_FEET = 12
const MAX_LETTERS = 9

/** The names of lots under the charts: as many as there is room for, the last of them always. */
export function feetOf(trend: Trend): Foot[] {
  const lots = trend.points.length
  const every = Math.max(Math.ceil(lots / MAX_FEET), 1)
  return trend.points.flatMap((point, place) => {
    if ((lots - 1 - place) % every) return []
    const isLong = point.lot.length > MAX_LETTERS
    return [
      {
        x: columnOf(place, lots),
        text: isLong ? `${point.lot.slice(0, MAX_LETTERS - 1)}…` : point.lot,
      },
    ]
  })
}

export const RANGE_HIGH = 110

/** The distance of each lot from the one before it. */
export function rangesChart(trend: Trend): Chart {
  const { limits, points } = trend
  const upper = limits?.upper_range
  const ranges = points.flatMap((point, place) =>
    point.moving_range == null ? [] : [{ point, place, range: point.moving_range }],
  )
  const scale = scaleOf([0, ...ranges.map(({ range }) => range), upper ?? 0], RANGE_HIGH)
  return {
    spots: ranges.map(({ point, place, range }) => ({
      x: columnOf(place, points.length),
      y: scale(range),
      jobId: point.job_id,
      text: t('office.lot-of-job', { lot: point.lot, number: point.number, figure: three(range) }),
      isSignal: upper != null && range > upper,
    })),
    lines: limits
      ? [
          {
            y: scale(limits.upper_range),
            kind: 'limit',
            label: `${t('office.upper-limit')} ${three(limits.upper_range)}`,
          },
          {
            y: scale(limits.mean_range),
            kind: 'centre',
            label: `${t('office.centre')} ${three(limits.mean_range)}`,
          },
        ]
      : [],
    baseEnd: columnOf(trend.base - 0.5, points.length),
  }
}
