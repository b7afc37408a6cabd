import type { JudgedRow } from '@/api/client'
import { three, signed } from '@/ui/numbers'

/** Every figure of a row, each of which opens its working. */
export function figuresOf(row: JudgedRow): [string, string][] {
  const figures = row.summary
  if (!figures) return []
  const text: [string, string][] = [
    [
      figures.statistic ?? 'mean',
      `${figures.qualifier ?? ''} ${signed(figures.reported ?? 'none')}\u00a0${row.unit}`.trim(),
    ],
    ...(row.beside ? [['or', signed(row.beside)] as [string, string]] : []),
    ['n', figures.n === null ? '–' : String(figures.n)],
  ]
  if (figures.minimum === null) return text
  return [
    ...text,
    ['SD', three(figures.sd)],
    ['CV %', three(figures.cv_percent)],
    ['95 % interval', `±\u00a0${three(figures.ci95_half_width)}`],
    ['min', three(figures.minimum)],
    ['max', three(figures.maximum)],
  ]
}
