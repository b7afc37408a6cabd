import { expect, it } from 'vitest'
import { coordinate, figureFrom, fixed, three, withPoint } from '@/ui/numbers'

it('writes figures with a point, without marks between thousands', () => {
  expect(fixed(1480, 1)).toBe('1480.0')
  expect(fixed(1234567.891, 2)).toBe('1234567.89')
  expect(fixed(-0.05, 1)).toBe('−0.1')
})

it('writes three significant digits, as the report does', () => {
  expect([23.456, 0.012345, 1999.6, 0, 7].map(three)).toEqual([
    '23.5',
    '0.0123',
    '2000',
    '0',
    '7.00',
  ])
  expect([null, undefined].map(three)).toEqual(['–', '–'])
})

it('reads what was typed with a comma or a point, and nothing else as a figure', () => {
  expect([' 12,5 ', '12.5', '-3', '1e3'].map(figureFrom)).toEqual([12.5, 12.5, -3, 1000])
  expect(['', '  ', '12 mm', '1,2,3'].map(figureFrom).every(Number.isNaN)).toBe(true)
  expect(withPoint(' 0,75')).toBe('0.75')
})

it('keeps places in a drawing short', () => {
  expect(coordinate(12.34567)).toBe(12.35)
})
