import { afterEach, describe, expect, it } from 'vitest'
import LaneStrip from '@/today/LaneStrip.vue'
import { timeScale } from '@/today/timeScale'
import { drawnOn, stacked, withoutWaiting, workOf, type Block } from '@/today/today'
import { mountInKit } from './kit'

const HOUR = 3_600_000
/** Monday 2 March 2026, 09:00 in the laboratory. */
const FROM = Date.parse('2026-03-02T08:00:00Z')
const at = (hour: number) => new Date(FROM + hour * HOUR).toISOString()
const block: Block = {
  id: '7',
  job_number: 'J-0401',
  test: 'J-0404 tear',
  step: 'pull',
  job_id: 4,
  test_id: 4,
  pinned: false,
  begins: at(0.75),
  start: at(1),
  hands_on_end: at(2),
  end: at(6),
  person: 'A',
  person_id: 1,
  place: 'frame 1',
  why: 'it begins at once',
  late: false,
  at: 'bench',
}
const tuesday = { ...block, begins: at(26), start: at(26), hands_on_end: at(27), end: at(27) }
const lane = { kind: 'station' as const, name: 'Frame 1', blocks: [block] }
const twoDays = { ...lane, blocks: [block, tuesday] }

describe('the axis of the day', () => {
  it('keeps every moment on it', () => {
    const scale = timeScale(FROM, 10, workOf([lane]))
    expect(scale.at(at(5))).toBe(50)
    expect(scale.at(at(-20))).toBe(0)
    expect(scale.at(at(200))).toBe(100)
    expect(scale.folds).toEqual([])
  })

  it('folds the night, and gives its room to the hours of work', () => {
    const scale = timeScale(FROM, 30, workOf([twoDays]))
    expect(scale.folds).toHaveLength(1)
    const [night] = scale.folds
    expect(night!.text).toBe('Mon 20:00 to Tue 06:00: no work planned')
    // 11 hours of Monday, 10 folded to 0.6, 9 of Tuesday.
    expect(night!.left).toBeCloseTo((100 * 11) / 20.6)
    expect(night!.width).toBeCloseTo((100 * 0.6) / 20.6)
    expect(scale.at(at(21))).toBeCloseTo(night!.left + night!.width)
  })

  it('folds no hour in which somebody works, and whole days on which nobody does', () => {
    const late = { ...block, begins: at(12), start: at(12), hands_on_end: at(13), end: at(13) }
    const night = timeScale(FROM, 30, workOf([{ ...lane, blocks: [block, late, tuesday] }]))
    expect(night.folds.map((fold) => fold.text)).toEqual([
      'Mon 22:00 to Tue 06:00: no work planned',
    ])
    const week = timeScale(FROM, 96, workOf([lane]))
    expect(week.folds.map((fold) => fold.text)).toEqual(['Mon 20:00 to Fri 09:00: no work planned'])
  })

  it('gives back the moment at a place, to five minutes', () => {
    const scale = timeScale(FROM, 30, workOf([lane]))
    for (const hour of [0, 3.25, 10.5, 22, 29])
      expect(scale.momentAt(scale.at(at(hour))).toISOString()).toBe(at(hour))
    expect(timeScale(FROM, 10, []).momentAt(33.333).toISOString()).toBe(at(3 + 20 / 60))
  })

  it('marks hours on a short axis, fewer on a long one, and the day after a fold', () => {
    const text = (hours: number) =>
      timeScale(FROM, hours, workOf([twoDays])).marks.map((mark) => mark.text)
    expect(text(8)).toEqual(['9', '10', '11', '12', '13', '14', '15', '16', '17'])
    expect(text(30)).toEqual(['12', '16', '20', 'Tue 06:00', '8', '12'])
  })
})

describe('the blocks of a lane', () => {
  it('are drawn as set-up, hands and waiting one after the other', () => {
    const scale = timeScale(FROM, 10, [])
    const [drawn] = drawnOn([block], scale)
    expect(drawn).toMatchObject({ begins: 7.5, setUp: 2.5, hands: 10, alone: 40 })
    expect(drawnOn([block], timeScale(FROM + 24 * HOUR, 10, []))).toEqual([])
    expect(drawnOn(withoutWaiting([block]), scale)[0]!.alone).toBe(0)
  })

  it('stand below each other where they overlap', () => {
    const later = { ...block, begins: at(6), end: at(7) }
    const { rows, count } = stacked([block, block, later].map((each) => ({ block: each })))
    expect(rows.map((each) => each.row)).toEqual([0, 1, 0])
    expect(count).toBe(2)
    expect(stacked([]).count).toBe(1)
  })
})

describe('the lanes', () => {
  afterEach(() => document.body.replaceChildren())
  const other = { ...block, id: '8', job_id: 5, job_number: 'J-0402', pinned: true }
  const strip = () =>
    mountInKit(LaneStrip, {
      lanes: [lane, { ...lane, name: 'Frame 2', blocks: [other] }],
      now: FROM,
      hours: 10,
    })

  it('light the blocks of one job together', async () => {
    const shown = strip()
    const [first, second] = shown.findAll('button.block')
    expect(second!.classes()).toContain('pinned')
    await first!.trigger('focus')
    expect([first!.classes().includes('lit'), second!.classes().includes('dim')]).toEqual([
      true,
      true,
    ])
    await first!.trigger('blur')
    expect(second!.classes()).not.toContain('dim')
  })

  it('zoom by the wheel, within bounds', async () => {
    const shown = strip()
    await shown.get('.ruler').trigger('wheel', { deltaY: 100 })
    expect(shown.emitted('update:hours')).toEqual([[12.5]])
    await shown.setProps({ hours: 4 })
    await shown.get('.ruler').trigger('wheel', { deltaY: -100 })
    expect(shown.emitted('update:hours')!.at(-1)).toEqual([4])
  })

  it('look at a block that is pressed, and ask to pin one that is dragged', async () => {
    const shown = strip()
    const held = shown.get('button.block')
    held.element.setPointerCapture = () => undefined
    Object.defineProperty(held.element.parentElement, 'clientWidth', { value: 1000 })
    await held.trigger('pointerdown', { clientX: 100, pointerId: 1 })
    await held.trigger('pointerup', { clientX: 100 })
    await held.trigger('click')
    await held.trigger('pointerdown', { clientX: 100, pointerId: 1 })
    await held.trigger('pointermove', { clientX: 300 })
    await held.trigger('pointerup', { clientX: 300 })
    await held.trigger('click')
    expect(shown.emitted('look')).toEqual([
      [block, block.start],
      [block, at(3)],
    ])
  })
})
