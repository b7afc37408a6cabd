import { describe, expect, it } from 'vitest'
import { columnsOf, monthName, monthsBack } from '@/office/months'

describe('the months of the figures', () => {
  it('are counted back over the year', () => {
    expect(monthsBack('2026-02', 4)).toEqual(['2026-02', '2026-01', '2025-12', '2025-11'])
    expect(monthName('2026-02')).toBe('February 2026')
  })

  it('are drawn against the longest of them', () => {
    const months = [
      { month: '2026-01', turnaround_days: 4, promised_days: 8, late: 0 },
      { month: '2026-02', turnaround_days: null, promised_days: null, late: 0 },
      { month: '2026-03', turnaround_days: 6, promised_days: 2, late: 2 },
    ]
    const [first, none, late] = columnsOf(months)
    expect(first).toMatchObject({ label: 'Jan', took: 0.5, promised: 1, isLate: false })
    expect([none!.took, none!.promised]).toEqual([null, null])
    expect([late!.took, late!.promised, late!.isLate]).toEqual([0.75, 0.25, true])
  })
})
