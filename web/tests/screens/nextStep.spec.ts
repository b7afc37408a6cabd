import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { client } from '@/api/client'
import NextStep from '@/bench/NextStep.vue'
import { mountInKit, type } from './kit'

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
      text: {},
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

const shown = (step: object) =>
  mountInKit(NextStep, {
    also: [],
    proposals: [],
    gauges: [],
    shows: [],
    specimenId: 1,
    step,
    device: '',
    serial: '',
    busy: false,
  })

afterEach(() => document.body.replaceChildren())

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

describe('a step that asks for values', () => {
  const width = { ...look.asks[0]!, kind: 'number' as const, name: 'width_mm', title: 'Width' }
  const weigh = { ...look, kind: 'type' as const, asks: [{ ...width, unit: 'mm' }] }
  const gauge = { id: 7, kind: 'caliper', name: 'Caliper', serial: 'CAL-7' }

  it('sends numbers as numbers, what is no number as it was typed, and nothing as null', async () => {
    const page = shown({ ...weigh, asks: [...weigh.asks, { ...width, name: 'lot', title: 'Lot' }] })
    await type(page, 'Width', '12,5')
    await page.get('form').trigger('submit')
    await type(page, 'Lot', 'B-2')
    await page.get('form').trigger('submit')
    expect(page.emitted('go')).toEqual([
      [{ width_mm: 12.5, lot: null }, undefined, {}],
      [{ width_mm: 12.5, lot: 'B-2' }, undefined, {}],
    ])
  })

  it('begins with what is preset, and anew at the next step', async () => {
    const page = shown({ ...weigh, asks: [{ ...width, preset: 4 }] })
    await page.get('form').trigger('submit')
    await page.setProps({ step: { ...weigh, title: 'Measure again' } })
    await page.get('form').trigger('submit')
    expect(page.emitted('go')).toEqual([
      [{ width_mm: 4 }, undefined, {}],
      [{ width_mm: null }, undefined, {}],
    ])
  })

  it('is read off a gauge, and says which, until somebody types over it', async () => {
    const read = vi.spyOn(client, 'POST').mockResolvedValue({
      data: { value: 10.02, gauge: 'CAL-7' },
      response: new Response(null, { status: 200 }),
    })
    const page = shown({ ...weigh, asks: [{ ...width, gauge: 'caliper' }] })
    await page.setProps({ gauges: [gauge] })
    await page.get('.field button').trigger('click')
    await flushPromises()
    expect(read.mock.calls[0]![1]).toMatchObject({ body: { specimen_id: 1, field: 'width_mm' } })
    await page.get('form').trigger('submit')
    await type(page, 'Width', '11')
    await page.get('form').trigger('submit')
    expect(page.emitted('go')).toEqual([
      [{ width_mm: 10.02 }, undefined, { width_mm: 'CAL-7' }],
      [{ width_mm: 11 }, undefined, {}],
    ])
    read.mockRestore()
  })

  it('takes what the device shows', async () => {
    const page = shown(weigh)
    await page.setProps({
      shows: [{ name: 'width_mm', title: 'Width', value: 9.9 }],
      device: 'The gauge',
      serial: 'G-1',
    })
    await page.get('.field button').trigger('click')
    await page.get('form').trigger('submit')
    expect(page.emitted('go')).toEqual([[{ width_mm: 9.9 }, undefined, { width_mm: 'G-1' }]])
  })
})

describe('beside the next step', () => {
  const asks = [{ ...look.asks[0]!, kind: 'text' as const, name: 'reason', title: 'Reason' }]
  const end = { ...look, act: 'end', asks: [], kind: 'end', button: 'Close run' }
  const pause = { ...look, act: 'pause', asks, kind: 'beside', button: 'Pause', title: 'Pause' }

  it('an action without values is sent at once', async () => {
    const page = shown(look)
    await page.setProps({ also: [end] })
    await page.get('.ending button').trigger('click')
    expect(page.emitted('go')).toEqual([[{}, 'end']])
  })

  it('an action with values takes the place of the step until it is left', async () => {
    const page = shown(look)
    await page.setProps({ also: [pause] })
    await page.get('.beside button').trigger('click')
    expect(page.get('h2').text()).toBe('Pause')
    await type(page, 'Reason', 'lunch')
    await page.get('form').trigger('submit')
    expect(page.emitted('go')).toEqual([[{ reason: 'lunch' }, 'pause', {}]])
    await page.get('button.link').trigger('click')
    expect(page.get('h2').text()).toBe('Grade the cloth')
  })
})
