import { computed, ref } from 'vue'
import { describe, expect, it } from 'vitest'
import { serverNow } from '@/app/clock'
import type { BenchView } from '@/bench/bench'
import BarrelPanel from '@/bench/procedures/BarrelPanel.vue'
import BigFigures from '@/bench/procedures/BigFigures.vue'
import ClockFigure from '@/bench/procedures/ClockFigure.vue'
import DropBox from '@/bench/procedures/DropBox.vue'
import { useFigures, type ProcedureProps } from '@/bench/procedures/figures'
import SealWindow from '@/bench/procedures/SealWindow.vue'
import SeriesProcedure from '@/bench/procedures/SeriesProcedure.vue'
import StepsProcedure from '@/bench/procedures/StepsProcedure.vue'
import SwingProcedure from '@/bench/procedures/SwingProcedure.vue'
import WeighProcedure from '@/bench/procedures/WeighProcedure.vue'
import { mountInKit } from './kit'

const MINUTE = 60_000
/** A moment so many minutes from now: so far away that the seconds of a test change nothing. */
const minutesAgo = (minutes: number) => new Date(serverNow() - minutes * MINUTE).toISOString()

const clock = (kind: string, seconds: number, agoMin: number) => ({
  code: 'dwell',
  title: 'Dwell',
  kind,
  seconds,
  since: minutesAgo(agoMin),
  within_s: 1,
  holds: false,
})

/** As much of the bench as a procedure draws. */
const view = (given: object = {}) =>
  ({
    label: 'S1',
    procedure: 'looks',
    phase: 'before',
    set_up: '100 mm/min',
    figure_unit: 'N',
    now: '2026-11-02T08:00:00Z',
    clocks: [],
    facts: [],
    events: [],
    series: [],
    sensors: [],
    scale: null,
    station: null,
    drawing: null,
    ...given,
  }) as unknown as BenchView

const specimen = (given: object = {}) =>
  ({ id: 7, label: 'S1', value_text: null, ...given }) as ProcedureProps['specimen']

/** What a device records: nothing, or a run that is on, or one that is over. */
const recorded = (state: 'none' | 'live' | 'over' = 'none', x: number[] = [], y: number[] = []) =>
  ({
    isLive: computed(() => state === 'live'),
    shown: computed(() => (state === 'over' ? { id: 1 } : null)),
    x: ref(x),
    y: ref(y),
    under: ref([]),
    marks: ref([]),
    working: ref([]),
    trouble: ref(''),
  }) as unknown as ProcedureProps['recorded']

const props = (given: object = {}, about: object = {}): ProcedureProps => ({
  view: view(given),
  specimen: specimen(about),
  recorded: recorded(),
})

describe('the clock of a step', () => {
  const shown = (kind: string, seconds: number, agoMin: number) =>
    mountInKit(ClockFigure, { clock: clock(kind, seconds, agoMin) })

  it('counts down while time is left', () => {
    const figure = shown('at-least', 7200, 30)
    expect(figure.text()).toContain('Dwell, at least 120:00')
    expect(figure.get('[role="timer"]').text()).toMatch(/^(89|90):\d\d to go$/)
    expect(figure.get('[role="timer"]').classes()).not.toContain('over')
  })

  it('is completed once a time of at least so long has passed', () => {
    const figure = shown('at-least', 60, 100)
    expect(figure.get('[role="timer"]').text()).toMatch(/over, completed$/)
    expect(figure.get('[role="timer"]').classes()).not.toContain('over')
    expect(figure.get('.tape span').attributes('style')).toContain('width: 100%')
  })

  it.each(['at-most', 'exactly'])('is over time once %s so long has passed', (kind) => {
    const figure = shown(kind, 60, 100)
    expect(figure.get('[role="timer"]').text()).toMatch(/over time$/)
    expect(figure.get('[role="timer"]').classes()).toContain('over')
  })

  it('has not begun before its beginning', () => {
    expect(shown('exactly', 600, -200).get('.tape span').attributes('style')).toContain('width: 0%')
  })
})

describe('two large figures', () => {
  const figures = (given: object = {}) =>
    mountInKit(BigFigures, {
      first: { value: 12.345, unit: 'N', digits: 1, title: 'now' },
      second: { value: null, unit: 'mm', digits: 2 },
      opens: '',
      setUp: 'jaws 100 mm apart',
      ...given,
    })

  it('have their digits, and a dash for what is not known', () => {
    const shown = figures().text().replace(/\s+/g, ' ')
    expect(shown).toContain('12.3')
    expect(shown).toContain('N now')
    expect(shown).toContain('–')
    expect(shown).toContain('jaws 100 mm apart')
  })

  it('show the result as it is reported, which opens its calculation', async () => {
    const first = { value: 12.345, unit: 'N', digits: 1, text: '12.4' }
    const shown = figures({ first, opens: 'Calculation of S1' })
    const opens = shown.get('button')
    expect(opens.attributes('aria-label')).toBe('Calculation of S1')
    expect(opens.text()).toBe('12.4')
    await opens.trigger('click')
    expect(shown.emitted('open')).toHaveLength(1)
  })

  it('name the device that goes on reading beside a finished run', () => {
    const shown = figures({ device: { value: 0.42, name: 'Frame 1', unit: 'N' } })
    expect(shown.text()).toContain('Frame 1 now 0.4 N')
  })
})

describe('the figures of a recording', () => {
  const station = { name: 'Rig 2', readings: [{ name: 'force_n', value: 3.5 }] }
  const of = (state: 'none' | 'live' | 'over', given: object = {}, about: object = {}) =>
    useFigures(
      {
        view: view({ station, ...given }),
        specimen: specimen(about),
        recorded: recorded(state, [0, 1, 2], [5, 9, 7]),
      },
      'force_n',
      'gap_mm',
    )

  it('are those of the device before a run', () => {
    const { upper, lower, titles, device } = of('none')
    expect([upper.value, lower.value]).toEqual([3.5, null])
    expect(titles.value).toEqual({ upper: 'now', lower: 'now' })
    expect(device.value).toBeNull()
  })

  it('are the last samples while it records', () => {
    const { upper, lower, titles } = of('live')
    expect([upper.value, lower.value]).toEqual([7, 2])
    expect(titles.value).toEqual({ upper: 'now', lower: 'now' })
  })

  it('are the highest and the end of a run without a result, with the device beside it', () => {
    const { upper, lower, titles, figure, unitOr, device } = of('over')
    expect([upper.value, lower.value, figure.value]).toEqual([9, 2, null])
    expect(titles.value).toEqual({ upper: 'highest', lower: 'at the end' })
    expect(unitOr('kPa')).toBe('kPa')
    expect(device.value).toEqual({ value: 3.5, name: 'Rig 2' })
  })

  it('are the result once there is one, in its own unit', () => {
    const { figure, titles, unitOr, device } = of(
      'over',
      { phase: 'complete' },
      { value_text: '-12.4' },
    )
    expect(figure.value).toBe('−12.4')
    expect(titles.value.upper).toBe('result')
    expect(unitOr('kPa')).toBe('N')
    expect(device.value).toBeNull()
  })
})

describe('a pack that is dropped', () => {
  const drop = (position: string, leak = false) => ({
    position,
    height_mm: 800,
    damage_outside: 1,
    damage_inside: 0,
    leak,
  })

  it('marks the faces of the next drop, and counts those that were hit', () => {
    const box = mountInKit(DropBox, { items: [drop('2-3-5'), drop('5')], next: '3-5' })
    expect(box.findAll('rect.next')).toHaveLength(2)
    const dots = box.findAll('text.count').map((each) => each.text())
    expect(dots.sort()).toEqual(['•', '•', '••'])
  })

  it('lists each drop with its damage in words', () => {
    const box = mountInKit(DropBox, { items: [drop('1'), drop('2', true)], next: '' })
    const rows = box.findAll('tr').map((row) => row.findAll('td').map((cell) => cell.text()))
    expect(rows.slice(1)).toEqual([
      ['1', '1', '800', 'slight', 'none', 'tight'],
      ['2', '2', '800', 'slight', 'none', 'leaks'],
    ])
    expect(box.findAll('rect.next')).toHaveLength(0)
  })

  it('is only the pack before the first drop', () => {
    expect(mountInKit(DropBox, { items: [], next: '1' }).find('table').exists()).toBe(false)
  })
})

describe('a blow', () => {
  const scale = { reading: 'reading_percent', unit: '%', full: 100, lower: 0.2, upper: 0.8 }
  const fact = (value: string) => ({
    name: 'reading_percent',
    title: 'reading',
    value,
    unit: '%',
  })

  it('shows the part of the scale that counts, and a needle at rest before it is read', () => {
    const shown = mountInKit(SwingProcedure, props({ scale }))
    expect(shown.get('svg').attributes('aria-label')).toBe(
      'Scale to 100 %; readings from 20 to 80 % of it count',
    )
    expect(shown.get('.needle').classes()).toContain('resting')
    expect(shown.findAll('svg text')).toHaveLength(12)
  })

  it('points at what was read', () => {
    const half = mountInKit(SwingProcedure, props({ scale, facts: [fact('50')] }))
    expect(half.get('.needle').classes()).not.toContain('resting')
    expect(half.get('.needle').attributes('d')).toBe('M210 196L210 38')
    const full = mountInKit(SwingProcedure, props({ scale, facts: [fact('250')] }))
    expect(full.get('.needle').attributes('d')).toMatch(/^M210 196L368 /)
  })

  it('has the clock from the chamber in its place, and says when it is too late', () => {
    const late = props({ scale, clocks: [clock('at-most', 10, 5)] })
    const shown = mountInKit(SwingProcedure, late)
    expect(shown.find('svg').exists()).toBe(false)
    expect(shown.text()).toContain('Dwell, at most 10 s')
    expect(shown.get('[role="timer"]').text()).toContain('too late')
  })

  it('opens the calculation of its result', async () => {
    const shown = mountInKit(SwingProcedure, props({ scale }, { value_text: '4.12' }))
    await shown.get('dl button').trigger('click')
    expect(shown.get('dl button').text()).toBe('4.12')
    expect(shown.emitted('working')).toHaveLength(1)
  })
})

describe('a seal window', () => {
  const point = (jaw_temperature_c: number, mean: number) => ({ jaw_temperature_c, mean })
  const window = (points: object[], initiation_c: number | null = 112) => ({
    points,
    plateau_c: [130, 150],
    setting_c: 140,
    initiation_c,
  })

  it('names the plateau, the setting and where sealing begins', () => {
    const points = [point(110, 0.2), point(130, 1.95), point(150, 2)]
    const shown = mountInKit(SealWindow, { window: window(points) })
      .text()
      .replace(/\s+/g, ' ')
    expect(shown).toContain('best 2.00 N/mm')
    expect(shown).toContain('from 130 to 150 °C')
    expect(shown).toContain('run the sealer at 140 °C')
    expect(shown).toContain('begins at 112 °C')
  })

  it('proposes no setting from two points', () => {
    const two = window([point(130, 2), point(150, 2)], null)
    const shown = mountInKit(SealWindow, { window: two }).text()
    expect(shown).not.toContain('run the sealer')
    expect(shown).not.toContain('begins at')
  })

  it('stands the stronger higher, and the hotter further right', () => {
    const points = [point(110, 1), point(130, 2)]
    const [weak, strong] = mountInKit(SealWindow, { window: window(points) }).findAll('circle')
    const at = (dot: typeof weak, name: string) => Number(dot!.attributes(name))
    expect(at(weak, 'cy')).toBeGreaterThan(at(strong, 'cy'))
    expect(at(weak, 'cx')).toBeLessThan(at(strong, 'cx'))
  })
})

describe('weighed before and after', () => {
  const fact = (value: string) => ({ name: value, title: 'mass', value, unit: 'g' })

  it('shows what is known of both masses, and where the clock will run', () => {
    const before = mountInKit(WeighProcedure, props())
    expect(before.text()).toContain('The clock of S1 runs here.')
    const half = mountInKit(WeighProcedure, props({ facts: [fact('12.405')] }))
    expect(half.findAll('.mass').map((each) => each.text())).toEqual(['12.405', '–'])
    expect(half.text()).toContain('No clock runs now.')
  })

  it('shows the take-up and a running clock', () => {
    const facts = [fact('12.405'), fact('13.842')]
    const shown = mountInKit(
      WeighProcedure,
      props({ facts, clocks: [clock('exactly', 1800, 0)] }, { value_text: '143.7' }),
    )
    expect(shown.text()).toContain('taken up')
    expect(shown.get('.result .mass').text()).toBe('143.7')
    expect(shown.find('[role="timer"]').exists()).toBe(true)
  })
})

describe('steps at a jar or a cabinet', () => {
  const event = (kind: string, taken_back = false) => ({ kind, taken_back })

  it.each([
    [[], 'Cabinet, fan on, no flame'],
    [[event('fan-off')], 'Cabinet, fan off, no flame'],
    [[event('fan-off'), event('lit')], 'Cabinet, fan off, burning'],
    [[event('fan-off'), event('lit'), event('burned')], 'Cabinet, fan off, no flame'],
    [[event('lit', true)], 'Cabinet, fan on, no flame'],
    [[event('fan-off'), event('fan-on')], 'Cabinet, fan on, no flame'],
  ])('say in which state the cabinet is', (events, label) => {
    const shown = mountInKit(StepsProcedure, props({ procedure: 'burn', events }))
    expect(shown.get('svg').attributes('aria-label')).toBe(label)
  })

  it('say whether the jar is under vacuum, and show a stream of bubbles', () => {
    const open = mountInKit(StepsProcedure, props({ procedure: 'leak' }))
    expect(open.get('svg').attributes('aria-label')).toBe('Jar open')
    const facts = [{ name: 'bubbles', title: 'bubbles', value: 'stream', unit: '' }]
    const under = { procedure: 'leak', facts, events: [event('vacuum')] }
    const shown = mountInKit(StepsProcedure, props(under))
    expect(shown.get('svg').attributes('aria-label')).toBe('Jar under vacuum')
    expect(shown.findAll('.bubbles circle')).toHaveLength(5)
  })
})

describe('a series', () => {
  const series = (items: unknown[], given: object = {}) => ({
    reading: 'inspections',
    items,
    hidden: 0,
    due: null,
    ...given,
  })
  const shown = (procedure: string, ...all: object[]) =>
    mountInKit(SeriesProcedure, props({ procedure, series: all }))

  it('is empty before its first reading, and says so', () => {
    expect(shown('looks', series([])).text()).toContain('The readings of S1 appear here.')
  })

  it('of looks is a ladder that ends where it is no longer good', () => {
    const ladder = shown(
      'looks',
      series([
        { count: 5000, acceptable: true },
        { count: 10000, acceptable: false },
      ]),
    )
    expect(ladder.findAll('li').map((row) => row.text())).toEqual(['5000 good', '10000 no longer'])
    expect(ladder.findAll('li.bad')).toHaveLength(1)
  })

  it('of drops of mass is a staircase with the one that is due', () => {
    const drops = [
      { mass_g: 180, failed: false },
      { mass_g: 195, failed: true },
    ]
    const stairs = shown('staircase', series(drops, { due: { mass_g: 180 } }))
    expect(stairs.get('svg').attributes('aria-label')).toBe('2 drops')
    expect(stairs.findAll('circle.failed')).toHaveLength(1)
    expect(stairs.findAll('circle.due')).toHaveLength(1)
    expect(stairs.get('text.next').text()).toBe('180')
  })

  it('of cuts is a row of rods, those with bubbles discarded', () => {
    const rods = shown(
      'cuts',
      series([
        { mass_g: 0.2, length_mm: 14, bubbles: false },
        { mass_g: 0.1, length_mm: 9, bubbles: true },
      ]),
    )
    expect(rods.findAll('.rods p')).toHaveLength(2)
    expect(rods.get('.rods p.out').text()).toContain('bubbles, discarded')
  })

  it('of grades covers those of the other assessors', () => {
    const grades = shown('grades', series(['4-5'], { reading: 'stain_grades', hidden: 1 }))
    expect(grades.text()).toContain('stain grades')
    expect(grades.findAll('.grades b').map((each) => each.text())).toEqual(['4-5', '?'])
  })

  it('of anything else is a list in words', () => {
    const list = shown(
      'looks',
      series([
        { minutes: 90, damage_outside: 0, leak: false },
        { minutes: 180, damage_outside: 2, leak: true },
      ]),
    )
    expect(list.findAll('li').map((row) => row.text())).toEqual([
      'minutes 90 · outside: none · tight',
      'minutes 180 · outside: marked · leaks',
    ])
  })
})

describe('a barrel', () => {
  const station = (upper: number, lower: number) => ({
    name: 'Melt rig',
    readings: [
      { name: 'set_c', value: 190 },
      { name: 'upper_c', value: upper },
      { name: 'lower_c', value: lower },
    ],
  })
  const event = (kind: string) => ({ kind, taken_back: false })

  it('is not drawn while the device says nothing of it', () => {
    expect(mountInKit(BarrelPanel, { view: view() }).find('.barrel').exists()).toBe(false)
  })

  it('shows both sensors beside the set point', () => {
    const shown = mountInKit(BarrelPanel, { view: view({ station: station(190.2, 189.7) }) })
    expect(shown.text().replace(/\s+/g, ' ')).toContain('190.2189.7set 190.0 °C')
  })

  it.each([
    [[], '2', false],
    [['charged'], '2', false],
    [['charged', 'purged'], '30', true],
    [['charged', 'purged', 'finished'], '30', false],
    [['charged', 'purged', 'finished', 'cleaned'], '2', false],
  ])('has its piston where the charge is: %s', (kinds, y, strand) => {
    const given = { station: station(190, 190), events: kinds.map(event) }
    const shown = mountInKit(BarrelPanel, { view: view(given) })
    const piston = shown.get('.piston').attributes('y')
    expect(piston).toBe(kinds.length === 1 ? '20' : y)
    expect(shown.find('.strand').exists()).toBe(strand)
  })
})
