import { describe, expect, it } from 'vitest'
import { emptySample, missingOf, sizesOf } from '@/jobs/typedSample'

const written = { client: 'Quay Awnings', product: 'Cloth', lot: 'A-17', material: 'acrylic' }

describe('what the counter asks of a sample', () => {
  it('is due in four days, at four in the afternoon', () => {
    const due = new Date(emptySample('1480').due!)
    expect([due.getHours(), due.getMinutes()]).toEqual([16, 0])
    const days = (due.getTime() - Date.now()) / 86_400_000
    expect(days > 3 && days < 5).toBe(true)
    expect(emptySample('1480').width_mm).toBe('1480')
  })

  it('asks of each form only what that form needs', () => {
    const sample = { ...emptySample('1480'), ...written }
    expect(missingOf(sample, 'sheet')).toEqual([])
    expect(missingOf(sample, 'granules')).toEqual(['mass_g'])
    expect(missingOf({ ...sample, lot: ' ' }, 'packs')).toEqual(['lot', 'count'])
  })

  it('sends no width of a pellet, and no count of a roll', () => {
    const sample = { ...emptySample('1480'), ...written, length_mm: '900', mass_g: '800,5' }
    expect(sizesOf(sample, 'sheet')).toEqual({ width_mm: 1480, length_mm: 900 })
    expect(sizesOf(sample, 'granules')).toEqual({ mass_g: 800.5 })
    expect(sizesOf({ ...sample, count: '12' }, 'pieces')).toEqual({ count: 12 })
  })
})
