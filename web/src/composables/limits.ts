import type { Schemas } from '@/api/client'

type Limit = Schemas['LimitAsked']

/** Limits as the server takes them, from what was typed for each direction; empty is no limit. */
export function limitsFrom(
  rows: { property: string; direction: string; criterion?: Limit['criterion'] | null }[],
  typed: Record<string, string>,
): Limit[] {
  return rows
    .filter((row) => typed[row.direction]?.trim())
    .map((row) => ({
      property: row.property,
      direction: row.direction,
      criterion: {
        on: row.criterion?.on ?? 'mean',
        op: row.criterion?.op ?? '>=',
        limit: typed[row.direction]!.trim().replace(',', '.'),
      },
    }))
}
