import { afterEach, describe, expect, it } from 'vitest'
import { VDatePicker } from 'vuetify/components/VDatePicker'
import DateField from '@/ui/DateField.vue'
import { writing } from '@/ui/writing'
import { fieldOf, mountInKit, type } from './kit'

const field = (modelValue: string | null, withTime = false) =>
  mountInKit(DateField, { modelValue, withTime, label: 'Next due' })
async function typed(text: string, withTime = false) {
  const mounted = field('', withTime)
  await type(mounted, 'Next due', text)
  return mounted
}
/** A day that is picked in the menu of the field. */
async function picked(modelValue: string, withTime: boolean, day: Date) {
  const mounted = field(modelValue, withTime)
  await mounted.get('button').trigger('click')
  mounted.findComponent(VDatePicker).vm.$emit('update:modelValue', day)
  await mounted.vm.$nextTick()
  return mounted.emitted('update:modelValue')?.at(-1)
}

afterEach(() => {
  writing.date_style = 'named'
})

describe('a day that is typed', () => {
  it('is a plain day however the laboratory writes it, and is shown as it does', async () => {
    expect((await typed('7 Nov 2026')).emitted('update:modelValue')).toEqual([['2026-11-07']])
    expect((await typed('07.11.2026')).emitted('update:modelValue')).toEqual([['2026-11-07']])
    expect(fieldOf(field('2026-11-07'), 'Next due').value).toBe('7 Nov 2026')
    writing.date_style = 'iso'
    expect(fieldOf(field('2026-11-07'), 'Next due').value).toBe('2026-11-07')
  })

  it('is null, with the reason, while it is no date', async () => {
    const odd = await typed('soon')
    expect(odd.emitted('update:modelValue')).toEqual([[null]])
    expect(odd.text()).toContain('Enter a day, such as')
    const short = await typed('7 Nov 2026', true)
    expect(short.emitted('update:modelValue')).toEqual([[null]])
    expect(short.text()).toContain('Enter a day and a time, such as')
  })

  it('is empty again once it is cleared', async () => {
    const cleared = field('2026-11-07')
    await type(cleared, 'Next due', ' ')
    expect(cleared.emitted('update:modelValue')).toEqual([['']])
  })
})

describe('a day that is picked', () => {
  const day = new Date(2026, 11, 24)

  it('keeps the time that was typed', async () => {
    const before = new Date(2026, 10, 7, 9, 30).toISOString()
    const expected = new Date(2026, 11, 24, 9, 30).toISOString()
    expect(await picked(before, true, day)).toEqual([expected])
  })

  it('is due at 16:00 where no time was typed', async () => {
    expect(await picked('', true, day)).toEqual([new Date(2026, 11, 24, 16).toISOString()])
  })

  it('is a plain day where no time is asked for', async () => {
    expect(await picked('', false, day)).toEqual(['2026-12-24'])
  })
})
