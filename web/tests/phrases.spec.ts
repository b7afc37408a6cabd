import { describe, expect, it } from 'vitest'
import { figureFrom, fixed, signed } from '@/ui/numbers'
import { writing } from '@/ui/writing'
import { dayFrom, momentFrom, moment, written } from '@/ui/dates'
import { due, span, stretch, together } from '@/ui/phrases'

describe('moments that are written down', () => {
  it.each([
    ['20 Nov 2026, 16:00', 2026, 10, 20, 16, 0],
    ['1. december 2026 08:05', 2026, 11, 1, 8, 5],
    ['2026-11-20 16:00', 2026, 10, 20, 16, 0],
    [' 29 FEB 2028, 0:00 ', 2028, 1, 29, 0, 0],
  ])('%s is read', (text, year, month, day, hour, minute) => {
    expect(momentFrom(text)).toEqual(new Date(year, month, day, hour, minute))
  })

  it.each([
    '',
    'soon',
    '31 Feb 2026, 12:00',
    '20 Nov 2026',
    '20 Nov 2026, 24:00',
    '2026-13-01 12:00',
  ])('%s is none', (text) => expect(momentFrom(text)).toBeNull())

  it('is read as it was written, for every hour of a year with two changes of the clock', () => {
    for (let hour = 0; hour < 366 * 24; hour += 5) {
      const at = new Date(2026, 0, 1, hour, 30)
      expect(momentFrom(written(at))?.getTime()).toBe(at.getTime())
    }
  })

  it('is shown with the day and without a comma in it', () => {
    expect(moment('2026-11-20T15:00:00Z')).toBe('Fri 20 Nov, 16:00')
    expect(moment(null)).toBe('–')
  })
})

it('says a stretch of time as a clock does', () => {
  expect([0, 31_000, 702_000, 21_900_000, -5000].map(stretch)).toEqual([
    '0:00',
    '0:31',
    '11:42',
    '6 h 05',
    '0:00',
  ])
})

it('says how late a job is', () => {
  const now = Date.parse('2026-11-20T12:00:00Z')
  expect(due('2026-11-23T13:00:00Z', now)).toEqual({ text: 'in 3 days', late: false })
  expect(due('2026-11-19T11:00:00Z', now)).toEqual({ text: '1 day late', late: true })
  expect(due('2026-11-20T12:20:00Z', now).text).toBe('in 20 min')
})

it('draws neighbouring labels together and keeps pairs apart', () => {
  expect(together(['W1', 'W2', 'W3', 'W5', 'F1', 'F2'])).toBe('W1 to W3, W5, F1, F2')
  expect(together(['W9', 'W10', 'W11', 'A'])).toBe('W9 to W11, A')
  expect(together([])).toBe('')
})

describe('the writing of the laboratory', () => {
  it('goes into days and figures, and each is read again', () => {
    const at = new Date(2026, 10, 7, 16, 5)
    const styles = {
      named: '7 Nov 2026, 16:05',
      dotted: '07.11.2026, 16:05',
      iso: '2026-11-07, 16:05',
    }
    for (const [style, text] of Object.entries(styles)) {
      writing.date_style = style as keyof typeof styles
      expect(written(at)).toBe(text)
      expect(momentFrom(text)).toEqual(at)
    }
    writing.date_style = 'named'
    writing.decimal_sign = 'comma'
    expect(fixed(24.96, 1)).toBe('25,0')
    expect(signed('> 24.5')).toBe('> 24,5')
    expect(figureFrom(fixed(24.96, 2))).toBe(24.96)
    writing.decimal_sign = 'point'
    expect(fixed(24.96, 1)).toBe('25.0')
    expect(momentFrom('31.02.2026, 16:00')).toBeNull()
    expect(['7 Nov 2026', '07.11.2026', '2026-11-07'].map(dayFrom)).toEqual(
      Array(3).fill('2026-11-07'),
    )
    expect(dayFrom('soon')).toBeNull()
  })
})

it.each([
  [20_000, '1 min'],
  [1_200_000, '20 min'],
  [3_600_000, '1 h 00 min'],
  [7_500_000, '2 h 05 min'],
  [86_400_000, '1 day'],
  [260_000_000, '3 days'],
])('says a stretch of %i ms as a person does', (ms, text) => {
  expect(span(ms)).toBe(text)
})
