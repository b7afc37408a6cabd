import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import en from '@/locales/en.json'
import { counted, t } from '@/ui/words'

const SOURCES = readdirSync('src', { recursive: true, encoding: 'utf8' })
  .filter((name) => /\.(vue|ts)$/.test(name) && !name.endsWith('schema.ts'))
  .map((name) => readFileSync(`src/${name}`, 'utf8'))
  .join('\n')

describe('the catalogue', () => {
  it('holds no text that no screen shows', () => {
    const unused = Object.entries(en).flatMap(([page, texts]) =>
      Object.keys(texts)
        .map((name) => `${page}.${name}`)
        .filter((key) => !SOURCES.includes(`'${key}'`) && !SOURCES.includes(`"${key}"`)),
    )
    expect(unused).toEqual([])
  })

  it('fills in the values of a text', () => {
    expect(t('app.lot', { product: 'Awning cloth', client: 'Quay Awnings', lot: '10.25' })).toBe(
      'Awning cloth, Quay Awnings, lot 10.25',
    )
  })

  it('has a text for one and a text for several', () => {
    expect([0, 1, 2].map((count) => counted('people.rows', count))).toEqual([
      'no rows',
      '1 row',
      '2 rows',
    ])
  })
})
