import { describe, expect, it } from 'vitest'
import StudyRule from '@/jobs/StudyRule.vue'
import { graduationText, ruleInWords, scaleOf } from '@/ui/ruleScale'
import { mountInKit } from './kit'

const RULE = {
  low: 10,
  high: 30,
  step: 5,
  unit: 'N',
  limit: 20,
  limit_text: 'mean ≥ 20 N',
  forbidden: { start: 10, end: 20 },
  second_limit: null,
  second_forbidden: null,
  guarded: [{ start: 19, end: 21 }],
  values: [22, 24],
  voids: [15],
  mean: 23,
  half_width: 2,
}

describe('the scale of a rule', () => {
  it('goes from its low to its high end in whole steps', () => {
    const scale = scaleOf(RULE)
    expect([10, 20, 30, 99, -5].map(scale.at)).toEqual([0, 50, 100, 100, 0])
    expect(scale.graduations).toEqual([10, 15, 20, 25, 30])
    expect(scale.fine).toHaveLength(21)
    expect(scale.limits).toEqual([20])
    expect(scale.interval).toEqual([expect.closeTo(55), expect.closeTo(75)])
  })

  it('has no interval without a mean, and both sides where there are two limits', () => {
    const both = { ...RULE, mean: null, second_limit: 28, second_forbidden: { start: 28, end: 30 } }
    expect(scaleOf(both).interval).toBeNull()
    expect(scaleOf(both).forbidden).toHaveLength(2)
    expect(scaleOf(both).limits).toEqual([20, 28])
  })

  it('is said in words', () => {
    expect(ruleInWords(RULE)).toBe('mean 23.0 N, 2 valid, 1 void, limit mean ≥ 20 N, guarded')
    expect(graduationText(0.1 + 0.2)).toBe('0.3')
  })
})

describe('the rows of a comparison', () => {
  it('share their limit, and name the scale once below them', () => {
    const row = mountInKit(StudyRule, { rule: RULE })
    expect(row.get('line.limit').attributes('x1')).toBe('50%')
    expect(row.findAll('line.tick')).toHaveLength(2)
    expect(row.find('text').exists()).toBe(false)
    const axis = mountInKit(StudyRule, { rule: RULE, axis: true })
    expect(axis.findAll('text').map((text) => text.text())).toEqual(['10', '15', '20', '25', '30'])
    expect(axis.get('svg').attributes('aria-hidden')).toBe('true')
  })
})
