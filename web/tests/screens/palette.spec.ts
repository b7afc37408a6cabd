import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { JobLine, MethodLine } from '@/api/client'
import { commandsFor } from '@/app/commands'
import CommandPalette from '@/app/CommandPalette.vue'
import { mountInKit } from './kit'

const act = vi.fn()
const known = {
  page: [{ key: 'p', text: 'plan again', act }],
  jobs: [
    {
      id: 4,
      number: 'J-0404',
      product: 'Awning cloth',
      client: 'Quay Awnings',
      lot: 'B-2',
      next_screen: 'bench',
      next_text: 'Start testing',
    } as JobLine,
  ],
  methods: [{ id: 'iso-180', title: 'Izod impact' } as MethodLine],
}
const titles = (typed: string) => commandsFor(typed, known).map((command) => command.title)

describe('the commands', () => {
  it('begin with the actions of the page and the screens', () => {
    expect(titles('').slice(0, 3)).toEqual(['Plan again', 'Today', 'Jobs'])
    expect(titles('')).not.toContain('J-0404')
  })

  it('are found by all words, in any order', () => {
    expect(titles('sample rec')).toContain('Receive sample')
    expect(titles('impact method')).toContain('Method: Izod impact')
    expect(titles('nowhere').filter((title) => !title.startsWith('J-'))).toEqual([])
  })

  it('open a job, or its next step', () => {
    const [job, next] = commandsFor('awning', known)
    expect([job!.to, next!.to]).toEqual(['/jobs/4', '/bench/4'])
    expect(next!.title).toBe('J-0404: Start testing')
  })
})

describe('the palette', () => {
  afterEach(() => document.body.replaceChildren())

  it('goes up and down by the keys, and opens what is lit', async () => {
    const palette = mountInKit(
      CommandPalette,
      { modelValue: true },
      { answers: { methods: known.methods } },
    )
    await flushPromises()
    const field = document.querySelector('input')!
    const lit = () => document.querySelector('[aria-selected="true"] b')?.textContent
    expect(lit()).toBe('Today')
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', bubbles: true }))
    await palette.vm.$nextTick()
    expect(lit()).toBe('Jobs')
    for (let press = 0; press < 2; press += 1)
      field.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true }))
    await palette.vm.$nextTick()
    expect(lit()).toBe('Required sample size')
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    expect(palette.emitted('update:modelValue')).toEqual([[false]])
  })
})
