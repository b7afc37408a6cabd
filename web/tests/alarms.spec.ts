import { describe, expect, it } from 'vitest'
import { keyOf, nextAlarm, runOut, type Tape } from '@/app/alarms'

const tape = (left: number, whose = 'J-0404'): Tape => ({
  whose,
  text: 'Preheat, S1',
  ends_at: '2026-03-02T08:05:00Z',
  left,
})
const seen = (...tapes: Tape[]) => new Map(tapes.map((each) => [keyOf(each), each.left]))

describe('the alarm', () => {
  it('goes from a flash to sound to none and round again', () => {
    expect(nextAlarm('flash')).toBe('sound')
    expect(nextAlarm('sound')).toBe('none')
    expect(nextAlarm('none')).toBe('flash')
  })
})

describe('a clock that runs out', () => {
  it('is told once, as it passes', () => {
    expect(runOut(seen(tape(900)), [tape(-100)])).toHaveLength(1)
    expect(runOut(seen(tape(-100)), [tape(-1100)])).toEqual([])
    expect(runOut(seen(tape(900)), [tape(100)])).toEqual([])
  })

  it('is not told where it was out before it was looked at, or long since', () => {
    expect(runOut(new Map(), [tape(-100)])).toEqual([])
    expect(runOut(seen(tape(900)), [tape(-9_000_000)])).toEqual([])
    expect(runOut(seen(tape(900)), [tape(-100, 'J-0405')])).toEqual([])
  })
})
