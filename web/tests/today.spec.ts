import { describe, expect, it } from 'vitest'
import { drawnOn, marksOf, placeOn, stacked, withoutWaiting, type Block } from '@/today/today'

const FROM = Date.parse('2026-03-02T08:00:00Z')
const block: Block = {
  id: '7',
  job_number: 'J-0401',
  test: 'J-0404 tear',
  step: 'pull',
  job_id: 4,
  test_id: 4,
  pinned: false,
  begins: '2026-03-02T08:45:00Z',
  start: '2026-03-02T09:00:00Z',
  hands_on_end: '2026-03-02T10:00:00Z',
  end: '2026-03-02T14:00:00Z',
  person: 'A',
  person_id: 1,
  place: 'frame 1',
  why: 'it begins at once',
  late: false,
  at: 'bench',
}

describe('the strip of the day', () => {
  it('keeps every moment on it', () => {
    expect(placeOn('2026-03-02T14:00:00Z', FROM, 12)).toBe(50)
    expect(placeOn('2026-03-01T14:00:00Z', FROM, 12)).toBe(0)
    expect(placeOn('2026-03-09T14:00:00Z', FROM, 12)).toBe(100)
  })

  it('draws set-up, hands and waiting one after the other', () => {
    const [drawn] = drawnOn([block], FROM, 10)
    expect(drawn).toMatchObject({ begins: 7.5, setUp: 2.5, hands: 10, alone: 40 })
    expect(drawnOn([block], FROM + 24 * 3_600_000, 10)).toEqual([])
    expect(drawnOn(withoutWaiting([block]), FROM, 10)[0]!.alone).toBe(0)
  })

  it('puts what overlaps below each other', () => {
    const later = { ...block, begins: '2026-03-02T14:00:00Z', end: '2026-03-02T15:00:00Z' }
    const { rows, count } = stacked([block, block, later].map((each) => ({ block: each })))
    expect(rows.map((each) => each.row)).toEqual([0, 1, 0])
    expect(count).toBe(2)
    expect(stacked([]).count).toBe(1)
  })

  it('marks hours on a short strip and days on a long one', () => {
    expect(marksOf(FROM, 12).length).toBeGreaterThan(11)
    expect(marksOf(FROM, 168).length).toBeLessThanOrEqual(8)
  })
})
