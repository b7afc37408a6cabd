import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import VerdictWord from '@/ui/VerdictWord.vue'
import { stepWords, verdictWords } from '@/ui/phrases'

describe('a verdict of the documents', () => {
  it.each([
    ['meets', 'pass'],
    ['does not meet', 'fail'],
    ['cannot say', 'inconclusive'],
    ['not judged', 'not evaluated'],
  ])('%s is said as %s', (verdict, text) => {
    expect(verdictWords(verdict)).toBe(text)
  })

  it('that is not known is said as it stands', () => {
    expect(verdictWords('report only')).toBe('report only')
  })

  it('has a shape beside its word, and its colour only when it fails', () => {
    const fails = mount(VerdictWord, { props: { verdict: 'does not meet' } })
    expect(fails.text()).toBe('fail')
    expect(fails.find('svg').exists()).toBe(true)
    expect(fails.classes()).toContain('fails')
    const open = mount(VerdictWord, { props: { verdict: 'not judged', open: '3 to go' } })
    expect(open.text()).toBe('3 to go')
    expect(open.find('svg').exists()).toBe(false)
    expect(open.classes()).not.toContain('fails')
  })
})

describe('a step of the plan', () => {
  it('is said in the words of the laboratory, with its number', () => {
    expect(stepWords('hang')).toBe('condition')
    expect(stepWords('hang 2')).toBe('condition 2')
    expect(stepWords('cut')).toBe('cut')
  })
})
