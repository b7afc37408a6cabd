import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { client } from '@/api/client'
import { useMeasuring } from '@/measuring/measuring'

const size = (field: string, readings: number[], places = 2) => ({
  field,
  title: field,
  readings,
  places_mm: Array.from({ length: places }, (_, place) => place * 10),
  gauge: 'caliper',
  instead: false,
  remarks: [] as object[],
})
const specimen = (id: number, changes: object = {}) => ({
  id,
  label: `W${id}`,
  revision: 1,
  open: true,
  called: true,
  done: false,
  sizes: [size('width', []), size('thickness', [], 1)],
  ...changes,
})
const view = (specimens: object[]) => ({
  job_id: 9,
  revision: 3,
  area_rule: 'mean',
  specimens,
  gauges: [
    { id: 5, kind: 'caliper', name: 'Caliper' },
    { id: 6, kind: 'balance', name: 'Balance' },
  ],
})
const answer = (data: unknown) => ({ data, response: new Response(null, { status: 200 }) }) as never
const refusal = (code: string, detail: string) =>
  ({
    error: { type: `endurant:${code}`, code, detail },
    response: new Response(null, { status: 409 }),
  }) as never

describe('the measuring of a test', () => {
  let shown = view([])
  const put = vi.spyOn(client, 'PUT')
  const post = vi.spyOn(client, 'POST')
  const leave = vi.fn()
  const focus = vi.fn()

  beforeEach(() => {
    shown = view([specimen(1), specimen(2), specimen(3, { called: false })])
    vi.spyOn(client, 'GET').mockImplementation(() => Promise.resolve(answer(shown)))
    put.mockReset()
    post.mockReset()
    leave.mockReset()
  })
  afterEach(() => document.body.replaceChildren())

  async function measuring(first: number | null = null) {
    let used!: ReturnType<typeof useMeasuring>
    const host = defineComponent({
      setup() {
        used = useMeasuring(7, first, focus, leave)
        return () => h('p')
      },
    })
    mount(host, {
      global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] as never },
    })
    await flushPromises()
    return used
  }
  const stored = (readings: number[]) => {
    shown = view([
      specimen(1, { revision: 2, sizes: [size('width', readings), size('thickness', [], 1)] }),
      specimen(2),
    ])
    put.mockResolvedValueOnce(answer(shown))
  }

  it('begins with the first specimen that is called, and its first place', async () => {
    const used = await measuring()
    expect(used.current.value?.id).toBe(1)
    expect(used.at.value).toEqual({ field: 'width', place: 0 })
    expect(used.gauge.value?.id).toBe(5)
    expect(used.measured.value).toBe(0)
    expect(used.allDone.value).toBe(false)
    expect((await measuring(2)).current.value?.id).toBe(2)
  })

  it('stores a reading with a comma at its place, and goes on to the next place', async () => {
    const used = await measuring()
    used.typed.value = ' 50,12 '
    stored([50.12])
    used.enter()
    await flushPromises()
    expect(put.mock.calls[0]![1]).toMatchObject({
      params: { path: { specimen_id: 1 } },
      body: { dimensions: { width: [50.12], thickness: [] }, revision: 1, reason: '' },
    })
    expect(used.typed.value).toBe('')
    expect(used.at.value).toEqual({ field: 'width', place: 1 })
    expect(used.current.value?.id).toBe(1)
  })

  it('says what is no number, and stores nothing', async () => {
    const used = await measuring()
    used.typed.value = 'wide'
    used.enter()
    await flushPromises()
    expect(used.refused.value).toContain('“wide” is not a number')
    expect(put).not.toHaveBeenCalled()
  })

  it('names the gauge that a reading came from', async () => {
    const used = await measuring()
    post.mockResolvedValueOnce(answer({ value: 49.9, gauge: 'CAL-7' }))
    stored([49.9])
    used.readGauge()
    await flushPromises()
    expect(post.mock.calls[0]![1]).toMatchObject({ body: { specimen_id: 1, field: 'width' } })
    expect(put.mock.calls[0]![1]).toMatchObject({ body: { with_gauges: ['CAL-7'] } })
  })

  it('goes to the next specimen once all is read, but stays where there is something to look at', async () => {
    shown = view([specimen(1, { sizes: [size('width', [50], 2)] }), specimen(2)])
    const used = await measuring()
    used.typed.value = '50.2'
    shown = view([specimen(1, { done: true, sizes: [size('width', [50, 50.2])] }), specimen(2)])
    put.mockResolvedValueOnce(answer(shown))
    used.enter()
    await flushPromises()
    expect(used.current.value?.id).toBe(2)

    const odd = { ...size('width', [50, 60]), remarks: [{ code: 'spread', text: 'far apart' }] }
    shown = view([specimen(1), specimen(2, { sizes: [size('width', [50])] })])
    const other = await measuring(2)
    other.typed.value = '60'
    shown = view([specimen(1), specimen(2, { done: true, sizes: [odd] })])
    put.mockResolvedValueOnce(answer(shown))
    other.enter()
    await flushPromises()
    expect(other.current.value?.id).toBe(2)
    expect(other.remarks.value[0]).toMatchObject({ code: 'spread', title: 'width' })
  })

  it('asks for a reason where a figure was computed already, and sends it again with the reason', async () => {
    const used = await measuring()
    used.typed.value = '50'
    put.mockResolvedValueOnce(refusal('needs-reason', 'The specimen is tested. Give a reason.'))
    used.enter()
    await flushPromises()
    expect(used.refused.value).toContain('Give a reason')
    expect(used.waits.value).not.toBeNull()
    stored([50])
    used.waits.value!('typing error')
    await flushPromises()
    expect(put.mock.calls[1]![1]).toMatchObject({ body: { reason: 'typing error' } })
  })

  it('takes the last reading back', async () => {
    shown = view([specimen(1, { sizes: [size('width', [50, 51]), size('thickness', [], 1)] })])
    const used = await measuring()
    stored([50])
    used.takeBack()
    await flushPromises()
    expect(put.mock.calls[0]![1]).toMatchObject({ body: { dimensions: { width: [50] } } })
  })

  it('goes to the bench after the last specimen', async () => {
    shown = view([specimen(1, { done: true, sizes: [size('width', [50, 51])] })])
    const used = await measuring()
    used.enter()
    expect(leave).toHaveBeenCalledWith('/bench/9')
    expect(used.allDone.value).toBe(true)
  })

  it('steps from specimen to specimen, and no further than the last', async () => {
    const used = await measuring()
    used.step(1)
    expect(used.current.value?.id).toBe(2)
    used.step(1)
    used.step(1)
    expect(used.current.value?.id).toBe(3)
  })

  it('adds the readings of the balance to each other, and sends them as masses', async () => {
    const used = await measuring()
    for (const value of [1.201, 1.198]) {
      post.mockResolvedValueOnce(answer({ value, gauge: 'BAL-1' }))
      used.readBalance()
      await flushPromises()
    }
    expect(used.masses.value).toBe('1.201 1.198')
    post.mockResolvedValueOnce(answer(shown))
    used.weighBlanks([1.201, 1.198])
    await flushPromises()
    expect(post.mock.calls[2]![1]).toMatchObject({
      body: { masses_g: [1.201, 1.198], revision: 3 },
    })
    expect(used.masses.value).toBe('')
  })

  it('changes the rule of the area to the other one', async () => {
    const used = await measuring()
    put.mockResolvedValueOnce(answer({ ...shown, area_rule: 'minimum' }))
    used.chooseRule()
    await flushPromises()
    expect(put.mock.calls[0]![1]).toMatchObject({ body: { area_rule: 'minimum', revision: 3 } })
  })
})
