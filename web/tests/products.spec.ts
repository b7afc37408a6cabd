import { describe, expect, it } from 'vitest'
import type { MethodLine, Schemas } from '@/api/client'
import { limitOf, newContribution, newTest, testOf, typedTest } from '@/products/products'

const METHOD = {
  id: 'iso-13937-2',
  directions: ['warp', 'weft'],
  properties: [
    { name: 'tear_force', title: 'Tear force', unit: 'N', statistic: 'mean' },
    { name: 'breaks', title: 'Breaks', unit: '', statistic: 'count' },
  ],
} as unknown as MethodLine

const LIMIT: Schemas['LimitRequest'] = {
  property: 'tear_force',
  direction: 'weft',
  criterion: { on: 'mean', op: '>=', limit: '25.0', none_below_percent: 80 },
  guard: {
    k: 2,
    budget: [{ name: 'load cell', value: 25, power: 1, k: 2, expanded: 0.2 }],
  },
}

describe('a product as it is typed', () => {
  it('is sent as it was kept, with its guard and its least value', () => {
    const test = {
      method: METHOD.id,
      parameters: { specimens_wanted: 4 },
      limits: [LIMIT],
      state: 'original' as const,
      stages: null,
    }
    expect(testOf(typedTest(test, METHOD))).toEqual(test)
  })

  it('keeps the conditioning of its own, and reads a comma in its times', () => {
    const stage = {
      atmosphere: 'chamber',
      least_minutes: 90,
      most_wait_minutes: 15,
      why: 'as agreed',
    }
    const test = { method: METHOD.id, parameters: {}, limits: [], state: 'wet' as const }
    const row = typedTest({ ...test, stages: [stage] }, METHOD)
    expect(testOf(row)).toMatchObject({ state: 'wet', stages: [stage] })
    row.stages![0]!.least = '1,5'
    row.stages![0]!.wait = ' '
    expect(testOf(row).stages).toEqual([{ ...stage, least_minutes: 1.5, most_wait_minutes: null }])
  })

  it('leaves out limits without a figure and parameters that were emptied', () => {
    const row = newTest(METHOD)
    row.parameters.evaluation = undefined
    expect(testOf(row)).toMatchObject({ method: METHOD.id, parameters: {}, limits: [] })
    expect(row.limits[0]).toMatchObject({ property: 'tear_force', direction: 'warp' })
  })

  it('reads commas in a guard, and leaves out a contribution without a name', () => {
    const [row] = newTest(METHOD).limits
    Object.assign(row!, { isGuarded: true, k: '2,5' })
    row!.typed.first = '25,0'
    const named = { ...newContribution(), name: 'scale', value: '1,5', amount: '0,02' }
    row!.budget = [{ ...named, kind: 'half_interval' }, newContribution()]
    const part = { name: 'scale', value: 1.5, power: 1, k: 2, half_interval: 0.02 }
    expect(limitOf(row!)?.guard).toEqual({ k: 2.5, budget: [part] })
    row!.isGuarded = false
    expect(limitOf(row!)?.guard).toBeUndefined()
  })
})
