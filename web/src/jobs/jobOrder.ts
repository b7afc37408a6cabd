import type { JobsLookedFor } from '@/api/queries'

/** How the list of jobs is ordered; without a column as the server orders it. */
export type JobOrder = Pick<JobsLookedFor, 'sort' | 'descending'>
export type JobColumn = NonNullable<JobOrder['sort']>

/** The column that a list is ordered by, and which way. */
export function shownOrder(order: JobOrder, isReleased: boolean): JobOrder {
  if (order.sort) return order
  return isReleased ? { sort: 'number', descending: true } : { sort: 'due', descending: false }
}

/** The order after a press on the head of a column: by it, and the other way at the next press. */
export function pressed(order: JobOrder, column: JobColumn, isReleased: boolean): JobOrder {
  const now = shownOrder(order, isReleased)
  return { sort: column, descending: now.sort === column && !now.descending }
}
