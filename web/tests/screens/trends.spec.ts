import { afterEach, describe, expect, it, vi } from 'vitest'
import TrendsPage from '@/office/TrendsPage.vue'
import {
  columnOf,
  feetOf,
  PLOT,
  RANGE_HIGH,
  rangesChart,
  valuesChart,
  type Trend,
} from '@/office/trends'
import { serve, settled } from '../serve'
import { mountInKit, unmountAll } from './kit'

const values = [10, 11, 10, 12, 11, 20]
const trend: Trend = {
  client: 'Quay Awnings',
  product: 'Awning cloth',
  series: [
    { key: 'a', title: 'ISO 13937-2: Tear force, warp', unit: 'N', lots: 6 },
    { key: 'b', title: 'ISO 13937-2: Tear force, weft', unit: 'N', lots: 6 },
  ],
  chosen: { key: 'a', title: 'ISO 13937-2: Tear force, warp', unit: 'N', lots: 6 },
  points: values.map((value, place) => ({
    job_id: place + 1,
    number: `J-040${place}`,
    lot: `LOT-${place}`,
    at: '2026-03-02T08:00:00Z',
    value,
    text: value.toFixed(1),
    n: 5,
    moving_range: place ? Math.abs(value - values[place - 1]!) : null,
    signals: place === 5 ? ['beyond-limits', 'two-of-three-far'] : [],
    in_base: place < 5,
  })),
  left_out: [{ job_id: 9, number: 'J-0409', lot: 'LOT-9', reason: 'its report was withdrawn' }],
  base: 5,
  limits: { centre: 11, spread: 1, lower: 8, upper: 14, mean_range: 1, upper_range: 3.3 },
  problem: '',
  rules: [
    { rule: 'beyond-limits', text: 'beyond the control limits' },
    { rule: 'two-of-three-far', text: 'two of three beyond two thirds of the limit' },
  ],
  required_low: 9,
  required_high: null,
  indices: [{ name: 'Cpk', value: 1.234, low: 0.5, high: 2 }],
  capability_remark: '',
}
const none = new Set<never>()

describe('the chart of lots', () => {
  it('has every value and every line inside the picture, higher values above', () => {
    const { spots, lines } = valuesChart(trend, none)
    for (const { y } of [...spots, ...lines]) {
      expect(y).toBeGreaterThanOrEqual(PLOT.above)
      expect(y).toBeLessThanOrEqual(PLOT.high - PLOT.below)
    }
    expect(spots[5]!.y).toBe(PLOT.above)
    expect(spots[3]!.y).toBeLessThan(spots[0]!.y)
    expect(lines.map((line) => line.label)).toEqual([
      'upper 14.0',
      'mean 11.0',
      'lower 8.00',
      'required ≥ 9.00',
    ])
  })

  it('marks signals but for the rules that are switched off', () => {
    const marked = (off: Set<never>) =>
      valuesChart(trend, off).spots.filter((spot) => spot.isSignal)
    expect(marked(none).map((spot) => spot.jobId)).toEqual([6])
    expect(marked(new Set(['beyond-limits', 'two-of-three-far']) as Set<never>)).toEqual([])
  })

  it('has one range less than lots, each under its lot', () => {
    const { spots, lines } = rangesChart(trend)
    expect(spots.map((spot) => spot.jobId)).toEqual([2, 3, 4, 5, 6])
    expect(spots[0]!.x).toBe(columnOf(1, 6))
    expect(spots.filter((spot) => spot.isSignal).map((spot) => spot.jobId)).toEqual([6])
    expect(lines).toHaveLength(2)
    expect(spots.every(({ y }) => y <= RANGE_HIGH)).toBe(true)
  })

  it('names as many lots as there is room for, the last always', () => {
    expect(feetOf(trend).map((foot) => foot.text)).toEqual(values.map((_, n) => `LOT-${n}`))
    const points = Array.from({ length: 100 }, () => ({
      ...trend.points[0]!,
      lot: 'A LONG NAME OF A LOT',
    }))
    const feet = feetOf({ ...trend, points })
    expect(feet.length).toBeLessThanOrEqual(12)
    expect(feet.at(-1)!.x).toBe(columnOf(99, 100))
    expect(feet[0]!.text).toBe('A LONG N…')
  })

  it('is drawn of lots that do not vary', () => {
    const same = { ...trend, limits: null, required_low: null, points: trend.points.slice(0, 1) }
    expect(Number.isFinite(valuesChart(same, none).spots[0]!.y)).toBe(true)
    expect(rangesChart(same).spots).toEqual([])
  })
})

describe('the page of trends', () => {
  afterEach(unmountAll)

  it('charts the product with most lots, and a lot opens its job', async () => {
    const sent = serve({
      'GET /api/trends/products': [{ client: 'Quay Awnings', product: 'Awning cloth', lots: 6 }],
      'GET /api/trends': trend,
    })
    const page = mountInKit(TrendsPage)
    await vi.waitUntil(() => page.find('svg').exists())
    await settled()
    expect(sent.find(({ to }) => to === 'GET /api/trends')?.query).toEqual({
      client: 'Quay Awnings',
      product: 'Awning cloth',
    })
    const text = page.text()
    expect(text).toContain('beyond the control limits; two of three')
    expect(text).toContain('its report was withdrawn')
    expect(text).toContain('0.50 to 2.00')
    const push = vi.spyOn(page.vm.$router, 'push')
    await page.get('a[href="/jobs/6"] circle').trigger('click')
    expect(push).toHaveBeenCalledWith('/jobs/6')
  })

  it('switches a rule off', async () => {
    serve({
      'GET /api/trends/products': [{ client: 'Quay Awnings', product: 'Awning cloth', lots: 6 }],
      'GET /api/trends': trend,
    })
    const page = mountInKit(TrendsPage)
    await vi.waitUntil(() => page.find('svg').exists())
    await settled()
    for (const box of page.findAll('input[type=checkbox]')) await box.setValue(false)
    expect(page.text()).toContain('No signal')
    expect(page.find('.signal').exists()).toBe(true)
  })

  it('says where lots come from when there are none', async () => {
    serve({ 'GET /api/trends/products': [] })
    const page = mountInKit(TrendsPage)
    await vi.waitUntil(() => page.text().includes('No lots yet'))
    expect(page.text()).toContain('Released reports appear here')
  })
})
