import { describe, expect, it } from 'vitest'
import SchemaField from '@/jobs/SchemaField.vue'
import { mountInKit } from './kit'
import { settled, shown } from '../serve'
import { asNumber, fieldWords, meant, type Schema, valueOf } from '@/jobs/schema'

const ROOT: Schema = { $defs: { Mode: { type: 'string', enum: ['peel', 'tear'] } } }

it('follows references and leaves "or nothing" aside', () => {
  const schema: Schema = {
    anyOf: [{ $ref: '#/$defs/Mode' }, { type: 'null' }],
    description: 'How it failed.',
  }
  expect(meant({ $ref: '#/$defs/Mode' }, ROOT).enum).toEqual(['peel', 'tear'])
  expect(meant(schema, ROOT).description).toBe('How it failed.')
  expect(meant({ anyOf: [{ type: 'number' }, { type: 'string' }] }, ROOT).type).toBe('string')
  expect(meant({ $ref: '#/$defs/Nothing' }, ROOT)).toEqual({ description: undefined })
})

it.each([
  ['width_mm', 'width, mm'],
  ['speed_mm_min', 'speed, mm/min'],
  ['grammage_g_m2', 'grammage, g/m²'],
  ['force_per_length_n_per_mm', 'force per length, N/mm'],
  ['n', 'n'],
  ['failure_mode', 'failure mode'],
])('says %s as %s', (name, text) => expect(fieldWords(name)).toBe(text))

it('takes numbers with a comma, lists by spaces, and leaves what is odd as text', () => {
  expect(asNumber('1,5e2')).toBe(150)
  expect(asNumber('12 mm')).toBe('12 mm')
  expect(valueOf(' 1,5; 2  3.25 ', { type: 'array', items: { type: 'number' } })).toEqual([
    1.5, 2, 3.25,
  ])
  expect(valueOf('a b', { type: 'array', items: { type: 'string' } })).toEqual(['a', 'b'])
  expect(valueOf('007', { type: 'string' })).toBe('007')
  expect(valueOf('  ', { type: 'number' })).toBeUndefined()
})

describe('a field of a method', () => {
  const schema = { type: 'number', description: 'Crosshead speed in mm per minute.', default: 100 }
  const shownField = () =>
    mountInKit(SchemaField, {
      name: 'speed_mm_min',
      schema,
      root: {},
      modelValue: undefined,
      isUsual: true,
    })

  it('says what it means when it is requested, by its mark or by F1', async () => {
    shownField()
    expect(shown()).not.toContain('Crosshead speed')
    const mark = document.querySelector<HTMLElement>('.help')!
    expect(mark.getAttribute('aria-label')).toBe('What this field means')
    mark.click()
    await settled()
    expect(shown()).toContain('Crosshead speed in mm per minute.')
    const key = new KeyboardEvent('keydown', { key: 'F1', bubbles: true, cancelable: true })
    document.querySelector('input')!.dispatchEvent(key)
    await settled()
    expect(key.defaultPrevented).toBe(true)
    expect(mark.getAttribute('aria-expanded')).toBe('false')
  })
})
