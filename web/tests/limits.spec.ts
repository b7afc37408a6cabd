import { describe, expect, it } from 'vitest'
import { kindsFor, limitFrom, typedFrom } from '@/jobs/limits'

describe('limits as they are typed', () => {
  it('are sent as text, so that their last place is kept', () => {
    const typed = { kind: 'mean >=', first: ' 25,0 ', second: '' }
    expect(limitFrom('tear_force', 'warp', typed)).toEqual({
      property: 'tear_force',
      direction: 'warp',
      criterion: { on: 'mean', op: '>=', limit: '25.0' },
    })
  })

  it('have two ends, or are a count of failures', () => {
    const between = limitFrom('p', '', { kind: 'mean between', first: '1', second: '2,50' })
    expect(between?.criterion).toEqual({ on: 'mean', op: 'between', low: '1', high: '2.50' })
    const none = limitFrom('p', '', { kind: 'no-failures', first: '20', second: '' })
    expect(none?.criterion).toEqual({ on: 'no-failures', of: 20 })
  })

  it('are none where nothing was typed', () => {
    expect(limitFrom('p', '', { kind: 'mean >=', first: ' ', second: '' })).toBeNull()
    expect(limitFrom('p', '', undefined)).toBeNull()
  })

  it.each(['mean >=', 'every <=', 'median between', 'no-failures', 'grade >=', 'class <='])(
    '%s is shown again as it was typed',
    (kind) => {
      const typed = { kind, first: '3', second: kind.endsWith('between') ? '4' : '' }
      const limit = limitFrom('p', '', typed)!
      expect(typedFrom(limit.criterion as never, 'mean >=')).toEqual(typed)
    },
  )

  it('offer what a property can have', () => {
    expect(kindsFor('class', '')).toEqual(['class <='])
    expect(kindsFor('count', '%')).toEqual(['no-failures'])
    expect(kindsFor('median', 'grade')).toEqual(['grade >='])
    expect(kindsFor('mean', 'rubs')[0]).toBe('count >=')
  })
})
