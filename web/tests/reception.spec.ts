import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { client, type MethodLine } from '@/api/client'
import { useReception } from '@/jobs/reception'

const tear = {
  id: 'iso-13937-2',
  title: 'Trouser tear',
  is_cut: true,
  by_document: false,
  directions: ['warp', 'weft'],
  properties: [{ name: 'tear_force', title: 'Tear force', unit: 'N', statistic: 'mean' }],
} as unknown as MethodLine
const grade = {
  id: 'grade',
  title: 'Grade',
  is_cut: false,
  by_document: false,
  directions: [],
  properties: [{ name: 'grade', title: 'Grade', unit: 'grade', statistic: 'median' }],
} as unknown as MethodLine
const written = { client: 'Quay Awnings', product: 'Cloth', lot: 'A-17', material: 'acrylic' }
const answer = (data: unknown) => ({ data, response: new Response(null, { status: 200 }) }) as never

describe('a sample at the counter', () => {
  const post = vi.spyOn(client, 'POST')
  beforeEach(() => {
    post.mockReset()
    post.mockResolvedValue(answer({ id: 4 }))
  })
  let scope = effectScope()
  afterEach(() => scope.stop())
  const reception = () => {
    scope = effectScope()
    return scope.run(() => useReception('1480', () => [tear, grade]))!
  }

  it('is not sent while something is missing', async () => {
    const used = reception()
    expect(used.request()).toBeNull()
    used.want(['iso-13937-2'])
    expect(used.request()).toBeNull()
    Object.assign(used.sample, written)
    expect(used.request()).not.toBeNull()
    used.sample.due = null
    expect(await used.receive()).toBeNull()
    expect(post).not.toHaveBeenCalled()
  })

  it('is sent with its tests, the limits that were typed, and one key for every try', async () => {
    const used = reception()
    Object.assign(used.sample, written)
    used.want(['iso-13937-2', 'unheard-of', 'grade'])
    used.requested.value[0]!.limits['tear_force warp'] = {
      kind: 'mean >=',
      first: '20,5',
      second: '',
    }
    used.requested.value[0]!.parameters = { evaluation: 'all-peaks', gauge_mm: undefined }
    const body = used.request()!
    expect(body.tests.map((test) => test.method)).toEqual(['iso-13937-2', 'grade'])
    expect(body.tests[0]).toEqual({
      method: 'iso-13937-2',
      state: 'original',
      parameters: { evaluation: 'all-peaks' },
      limits: [
        {
          property: 'tear_force',
          direction: 'warp',
          criterion: { on: 'mean', op: '>=', limit: '20.5' },
        },
      ],
    })
    expect(body).toMatchObject({ width_mm: 1480, length_mm: 1000, reports: 'each', damp: false })
    expect(used.request()!.request_key).toBe(body.request_key)
    await used.receive()
    const [path, options] = post.mock.calls.at(-1) as unknown as [string, unknown]
    expect(path).toBe('/api/jobs')
    expect(options).toEqual({ body: used.request() })
  })

  it('is filled in by a product specification, whose limits stand as they are', async () => {
    const used = reception()
    const product = {
      id: 7,
      name: 'Awning 300',
      client: 'Quay Awnings',
      revision: 2,
      gone: [],
      specification: {
        material: 'acrylic, 300 g/m²',
        form: 'sheet',
        comparison: 'unrounded',
        tests: [
          { method: 'iso-13937-2', parameters: { evaluation: 'all-peaks' }, limits: [{ a: 1 }] },
          { method: 'gone', parameters: {}, limits: [] },
        ],
      },
    }
    const get = vi.spyOn(client, 'GET').mockResolvedValue(answer({ product }))
    await used.choose(7)
    get.mockRestore()
    expect(used.sample).toMatchObject({ product: 'Awning 300', material: 'acrylic, 300 g/m²' })
    expect(used.requested.value).toHaveLength(1)
    used.sample.lot = 'B-2'
    expect(used.request()).toMatchObject({
      comparison: 'unrounded',
      product_revision: 2,
      tests: [{ limits: [{ a: 1 }] }],
    })
    used.sample.product = 'Awning 300, blue'
    expect(used.request()!.product_revision).toBeNull()
    await used.choose(null)
    expect(used.specified.value).toBeNull()
  })

  it('copies what another job asked for, but for its lot', async () => {
    const specification = { material: 'acrylic', form: 'pieces', tests: [] }
    const get = vi
      .spyOn(client, 'GET')
      .mockResolvedValue(answer({ client: 'Quay Awnings', name: 'Bracket', specification }))
    const used = reception()
    used.sample.lot = 'B-3'
    await used.copy(12)
    await flushPromises()
    expect(get.mock.calls[0]![1]).toEqual({ params: { path: { job_id: 12 } } })
    expect(used.form.value).toBe('pieces')
    expect(used.sample).toMatchObject({ product: 'Bracket', lot: 'B-3' })
    get.mockRestore()
  })
})
