import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import StepAnswers from '@/bench/StepAnswers.vue'
import FileButton from '@/ui/FileButton.vue'
import FormDialog from '@/ui/FormDialog.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import SortHead from '@/ui/SortHead.vue'
import { mountInKit } from './kit'

afterEach(() => document.body.replaceChildren())

describe('a dialog that is filled in', () => {
  const open = { modelValue: true, title: 'Add check', action: 'Add check' }
  const buttons = () => [...document.querySelectorAll<HTMLButtonElement>('.leaf footer button')]

  it('is confirmed by its form, and left by its first button', async () => {
    const dialog = mountInKit(FormDialog, open)
    await flushPromises()
    expect(document.querySelector('h2')!.textContent).toBe('Add check')
    expect(buttons().map((button) => button.type)).toEqual(['button', 'submit'])
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    expect(dialog.emitted('confirm')).toHaveLength(1)
    buttons()[0]!.click()
    expect(dialog.emitted('update:modelValue')).toEqual([[false]])
  })

  it('says what the server refused, and holds its action while something is missing', async () => {
    mountInKit(FormDialog, { ...open, refused: 'The title is empty.', disabled: true })
    await flushPromises()
    expect(document.querySelector('.leaf')!.textContent).toContain('The title is empty.')
    expect(buttons()[1]!.disabled).toBe(true)
  })

  it('gives a reason without the blanks around it, and only one that has words', async () => {
    const dialog = mountInKit(ReasonDialog, {
      modelValue: true,
      title: 'Void W1?',
      text: 'The report states it.',
      act: 'Void specimen',
    })
    await flushPromises()
    const field = document.querySelector<HTMLInputElement>('.leaf input')!
    expect(buttons()[1]!.disabled).toBe(true)
    field.value = '  slipped '
    field.dispatchEvent(new Event('input', { bubbles: true }))
    await flushPromises()
    expect(buttons()[1]!.disabled).toBe(false)
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    expect(dialog.emitted('given')).toEqual([['slipped']])
  })
})

describe('a button for files', () => {
  it('opens the chooser, and hands on what was chosen once', async () => {
    const button = mountInKit(
      FileButton,
      { label: 'Log as CSV', accept: '.csv', kind: 'link' },
      { slots: { default: 'import log' } },
    )
    const field = button.get('input').element as HTMLInputElement
    const opened = vi.spyOn(field, 'click')
    await button.get('button').trigger('click')
    expect(opened).toHaveBeenCalledTimes(1)
    const file = new File(['a'], 'log.csv')
    Object.defineProperty(field, 'files', { value: [file], configurable: true })
    await button.get('input').trigger('change')
    Object.defineProperty(field, 'files', { value: [], configurable: true })
    await button.get('input').trigger('change')
    expect(button.emitted('chosen')).toEqual([[[file]]])
    expect(field.getAttribute('aria-label')).toBe('Log as CSV')
  })
})

describe('answers that are buttons', () => {
  const press = (key: string, changes: object = {}) =>
    document.body.dispatchEvent(
      new KeyboardEvent('keydown', { key, cancelable: true, bubbles: true, ...changes }),
    )
  const shown = (props: object = {}) =>
    mountInKit(StepAnswers, {
      title: 'Grade',
      choices: ['4', '4-5', '5'],
      disabled: false,
      ...props,
    })

  it('are given by their digit, not by another one or with Ctrl', () => {
    const answers = shown()
    for (const key of ['2', '9', 'x']) press(key)
    press('1', { ctrlKey: true })
    expect(answers.emitted('answer')).toEqual([['4-5']])
  })

  it('are a scale where they are grades, and rest while the step is held', () => {
    const held = shown({ disabled: true })
    expect(held.get('fieldset').classes()).toContain('scale')
    press('1')
    expect(held.emitted('answer')).toBeUndefined()
    held.unmount()
    const text = shown({ choices: ['leaked', 'did-not-leak'] })
    expect(text.get('fieldset').classes()).not.toContain('scale')
    expect(text.findAll('button')[1]!.text()).toBe('did not leak 2')
  })
})

it('the head of a column shows how it is sorted', async () => {
  const head = mountInKit(SortHead, { title: 'Due', sorted: 'descending' })
  expect(head.get('svg').classes()).toEqual(['descending'])
  await head.get('button').trigger('click')
  expect(head.emitted('sort')).toHaveLength(1)
})
