/** A month as it is read: "December 2026". */
export function monthName(month: string): string {
  const first = new Date(`${month}-01T12:00:00`)
  return first.toLocaleDateString('en-GB', { month: 'long', year: 'numeric' })
}

/** A month where there is little room: "Dec 2026". */
export const shortMonth = (month: string) => `${monthName(month).slice(0, 3)} ${month.slice(0, 4)}`

/** So many months up to this one, the latest first, such as "2026-12". */
export function monthsBack(month: string, count: number): string[] {
  const [year, number] = month.split('-').map(Number) as [number, number]
  return Array.from({ length: count }, (_, back) => {
    const months = year * 12 + number - 1 - back
    const of = String((months % 12) + 1).padStart(2, '0')
    return `${Math.floor(months / 12)}-${of}`
  })
}

/** A column of the drawing: the days it took, the days promised, each as a share of the longest. */
export interface MonthColumn {
  month: string
  label: string
  took: number | null
  promised: number | null
  isLate: boolean
}

export function columnsOf(
  months: {
    month: string
    turnaround_days: number | null
    promised_days: number | null
    late: number
  }[],
): MonthColumn[] {
  const all = months.flatMap((each) => [each.turnaround_days ?? 0, each.promised_days ?? 0])
  const longest = Math.max(...all, 1)
  const share = (days: number | null) => (days === null ? null : days / longest)
  return months.map((each) => ({
    month: each.month,
    label: monthName(each.month).slice(0, 3),
    took: share(each.turnaround_days),
    promised: share(each.promised_days),
    isLate: each.late > 0,
  }))
}
