import { t } from '@/ui/words'
import { withPoint } from '@/ui/numbers'
import type { JudgedRow, Schemas } from '@/api/client'

export type Criterion = NonNullable<JudgedRow['criterion']>
type LimitRequest = Schemas['LimitRequest']

/** One limit as it is written on a form; empty figures are no limit. */
export interface LimitTyped {
  kind: string
  first: string
  second: string
  /** No single value below this many percent of the limit; kept as it was where a form does not ask. */
  noneBelow?: string
}

export const KINDS: Record<string, string> = {
  'mean >=': t('jobs.mean-at-least'),
  'mean <=': t('jobs.mean-at-most'),
  'mean between': 'mean from … to',
  'median >=': t('jobs.median-at-least'),
  'median <=': t('jobs.median-at-most'),
  'every >=': t('jobs.each-at-least'),
  'every <=': t('jobs.each-at-most'),
  'count >=': t('jobs.every-count-at-least'),
  'class <=': t('jobs.class-at-most'),
  'grade >=': t('jobs.grade-at-least'),
  'no-failures': 'no failures of',
}

/** The kinds of limit that a property can have. */
export function kindsFor(statistic: string, unit: string): string[] {
  if (statistic === 'class') return ['class <=']
  if (statistic === 'count') return ['no-failures']
  if (unit === 'grade') return ['grade >=']
  const figure = statistic === 'median' ? 'median' : 'mean'
  const kinds = [
    `${figure} >=`,
    `${figure} <=`,
    t('jobs.between', { figure }),
    'every >=',
    'every <=',
  ]
  return unit === 'rubs' ? ['count >=', ...kinds] : kinds
}

export function typedFrom(criterion: Criterion | null | undefined, first: string): LimitTyped {
  if (!criterion) return { kind: first, first: '', second: '' }
  const kind = criterion.on === 'no-failures' ? 'no-failures' : `${criterion.on} ${criterion.op}`
  return {
    kind,
    first: criterion.limit ?? criterion.low ?? String(criterion.of ?? ''),
    second: criterion.high ?? '',
    ...(criterion.none_below_percent && { noneBelow: String(criterion.none_below_percent) }),
  }
}

/** A limit as the server takes it; null where nothing was typed. */
export function limitFrom(
  property: string,
  direction: string,
  typed: LimitTyped | undefined,
): LimitRequest | null {
  const first = withPoint(typed?.first ?? '')
  if (!typed || !first) return null
  if (typed.kind === 'no-failures')
    return { property, direction, criterion: { on: 'no-failures', of: Number(first) } }
  const [on, op] = typed.kind.split(' ') as [Criterion['on'], Criterion['op']]
  const isLeast = op === '>=' && (on === 'mean' || on === 'median')
  const noneBelow = isLeast && typed.noneBelow ? Number(withPoint(typed.noneBelow)) : null
  const criterion =
    op === 'between'
      ? { on, op, low: first, high: withPoint(typed.second) }
      : { on, op, limit: first, ...(noneBelow !== null && { none_below_percent: noneBelow }) }
  return { property, direction, criterion }
}
