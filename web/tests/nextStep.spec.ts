import { mount } from '@vue/test-utils'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { describe, expect, it } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import NextStep from '@/bench/NextStep.vue'

const look = {
  act: 'look',
  asks: [
    {
      name: 'grade',
      title: 'Grade',
      kind: 'choice' as const,
      unit: '',
      required: true,
      choices: ['4', '4-5', '5'],
      words: {},
      preset: null,
      gauge: '',
    },
  ],
  button: 'Record grade',
  caution: '',
  confirms: [],
  hands_on_min: 1,
  held_until: null as string | null,
  hold: false,
  kind: 'look' as const,
  title: 'Grade the cloth',
  unattended_min: 0,
  why: '',
}

function shown(step: object) {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)', component: { render: () => null } }],
  })
  const props = { also: [], proposals: [], gauges: [], shows: [], specimenId: 1 }
  return mount(NextStep, {
    attachTo: document.body,
    global: { plugins: [router, VueQueryPlugin], stubs: { 'v-select': true } },
    props: { ...props, step, device: '', serial: '', busy: false } as never,
  })
}

describe('a step that a clock holds', () => {
  const held = { ...look, held_until: new Date(Date.now() + 60_000).toISOString() }
  const grades = (page: ReturnType<typeof shown>) => page.findAll('fieldset button')

  it('takes an answer early only from somebody who says that a reason follows', async () => {
    const page = shown(held)
    expect(page.get('[role=timer]').text()).toContain('Record grade in')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: '1' }))
    expect(page.emitted('go')).toBeUndefined()
    expect(grades(page).every((each) => 'disabled' in each.attributes())).toBe(true)
    await page.get('button.link').trigger('click')
    await grades(page)[1]!.trigger('click')
    expect(page.emitted('go')).toEqual([[{ grade: '4-5' }, undefined]])
  })

  it('is shut again at the next turn', async () => {
    const page = shown(held)
    await page.get('button.link').trigger('click')
    expect('disabled' in grades(page)[0]!.attributes()).toBe(false)
    await page.setProps({ step: { ...held, title: 'Grade the change' } })
    expect('disabled' in grades(page)[0]!.attributes()).toBe(true)
  })

  it('is open once its clock has run', async () => {
    const page = shown({ ...held, held_until: new Date(Date.now() - 1000).toISOString() })
    expect(page.find('[role=timer]').exists()).toBe(false)
    await grades(page)[2]!.trigger('click')
    expect(page.emitted('go')).toEqual([[{ grade: '5' }, undefined]])
  })
})
