import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { scanTaker, useScans } from '@/app/scanning'
import ActButton from '@/ui/ActButton.vue'
import { listedKeys, listKeys, useKeys } from '@/ui/keys'
import LimitRule from '@/ui/LimitRule.vue'
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
  guarded: [],
  values: [22, 24],
  voids: [15],
  mean: 23,
  half_width: 2,
}

describe('the limit rule', () => {
  it('says in words what it draws', () => {
    const rule = mount(LimitRule, { props: { rule: RULE } })
    expect(rule.get('svg').attributes('aria-label')).toBe(
      'mean 23.0 N, 2 valid, 1 void, limit mean ≥ 20 N',
    )
  })

  it('hatches the forbidden side, half of this rule', () => {
    const beyond = mount(LimitRule, { props: { rule: RULE } }).get('rect')
    expect([beyond.attributes('x'), beyond.attributes('width')]).toEqual(['0%', '50%'])
  })

  it('shows the band in which a guarded limit cannot say', () => {
    const rule = { ...RULE, guarded: [{ start: 15, end: 25 }] }
    const drawn = mount(LimitRule, { props: { rule } })
    expect(drawn.get('.guarded').attributes('width')).toBe('50%')
    expect(drawn.get('svg').attributes('aria-label')).toContain('guarded')
  })

  it('keeps what lies off its ends at its ends', () => {
    const rule = { ...RULE, values: [500], voids: [], mean: null, half_width: null }
    const drawn = mount(LimitRule, { props: { rule } })
    expect(drawn.get('svg').attributes('aria-label')).toContain('no result yet')
    expect(drawn.html()).toContain('100%')
    expect(drawn.html()).not.toMatch(/\b[2-9]\d\d\d?%/)
  })
})

describe('what can be pressed', () => {
  it('is a button that submits its form, a link in the application, or a link out', () => {
    const button = mountInKit(ActButton, {}, { slots: { default: 'Go' } }).get('button')
    expect(button.attributes('type')).toBe('submit')
    const inside = mountInKit(ActButton, { to: '/jobs' }, { slots: { default: 'Go' } })
    expect(inside.get('a').attributes('href')).toBe('/jobs')
    const out = mountInKit(
      ActButton,
      { href: '/api/schedule/day.pdf' },
      { slots: { default: 'Go' } },
    )
    expect(out.get('a').attributes('href')).toBe('/api/schedule/day.pdf')
    expect(out.get('a').attributes('type')).toBeUndefined()
  })

  it('stands in running text without the face of a button', () => {
    const link = mountInKit(
      ActButton,
      { kind: 'link', type: 'button' },
      { slots: { default: 'undo' } },
    )
    expect(link.get('button').classes()).toContain('link')
    expect(link.get('button').classes()).not.toContain('act')
    expect(link.get('button').attributes('type')).toBe('button')
  })
})

describe('keys and scans of a page', () => {
  const act = vi.fn()
  const Page = defineComponent(() => {
    useKeys(() => [{ key: 'n', text: 'receive', act }])
    useScans(act)
    return () => h('input')
  })
  const press = (target: EventTarget, key: string, more = {}) =>
    target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }))

  it('act while it is shown, and rest while something is typed', () => {
    const page = mount(Page, { attachTo: document.body })
    press(document.body, 'N')
    expect(act).toHaveBeenCalledTimes(1)
    press(page.get('input').element, 'n')
    press(document.body, 'n', { ctrlKey: true })
    press(document.body, 'x')
    expect(act).toHaveBeenCalledTimes(1)
    expect(listedKeys().map(({ text }) => text)).toEqual(['receive'])
    expect(scanTaker()).toBe(act)
    page.unmount()
    press(document.body, 'n')
    expect(act).toHaveBeenCalledTimes(1)
    expect(listedKeys()).toEqual([])
    expect(scanTaker()).toBeNull()
  })

  it('are listed with those of every part that is on the screen', () => {
    const Frame = defineComponent(() => {
      useKeys(() => [{ key: 'k', text: 'clocks', act }])
      return () => null
    })
    const Answers = defineComponent(() => {
      listKeys(() => [{ key: '1', text: 'pass' }])
      return () => null
    })
    const frame = mount(Frame)
    const page = mount(Page)
    const answers = mount(Answers)
    expect(listedKeys().map(({ key }) => key)).toEqual(['1', 'n', 'k'])
    answers.unmount()
    page.unmount()
    expect(listedKeys().map(({ key }) => key)).toEqual(['k'])
    frame.unmount()
  })
})
