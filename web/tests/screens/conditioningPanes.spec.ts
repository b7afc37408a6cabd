import { describe, expect, it } from 'vitest'
import PlacedGroup from '@/conditioning/PlacedGroup.vue'
import InHandTray from '@/conditioning/InHandTray.vue'
import RoomDialog from '@/conditioning/RoomDialog.vue'
import SetPointDialog from '@/conditioning/SetPointDialog.vue'
import WaitingGroups from '@/conditioning/WaitingGroups.vue'
import { barsOf, byJob } from '@/conditioning/groups'
import { useInHand } from '@/conditioning/inHand'
import { mountInKit } from './kit'
import {
  button,
  changes,
  choose,
  field,
  fill,
  press,
  Refused,
  serve,
  settled,
  shown,
  submit,
  part,
} from '../serve'

const NOW = Date.parse('2026-11-02T12:00:00Z')
const ROOM = {
  id: 1,
  name: 'Textile room',
  atmosphere: 'textile-20-65',
  capacity: 40,
  host: '127.0.0.1',
  port: 9100,
  device: 'L-1',
  revision: 6,
  temperature_c: 20,
  temperature_tolerance_c: 2,
  humidity_percent: null,
  humidity_tolerance_percent: null,
}
const PLACED = {
  job_id: 7,
  job_number: 'J-0400',
  product: 'Awning cloth',
  test: 'Trouser tear',
  specimens: [
    { specimen_id: 1, label: 'W1', weighings: [], equilibrium: '' },
    {
      specimen_id: 2,
      label: 'W2',
      weighings: [{ mass_g: 4.012, at: '2026-11-02T08:00:00Z' }],
      equilibrium: 'one more weighing',
    },
  ],
  minutes: 360,
  least_minutes: 1440,
  placed_at: '2026-11-02T06:00:00Z',
  runs_out_at: '2026-11-03T06:00:00Z',
  ready: false,
  counts: true,
  then: 'then to the bench',
  excursions: 0,
  outside_minutes: 0,
  unproven_minutes: 0,
  holds: [],
}
const WAITING = {
  job_id: 7,
  job_number: 'J-0400',
  product: 'Awning cloth',
  test: 'Trouser tear',
  specimens: [
    { id: 1, label: 'W1' },
    { id: 2, label: 'W2' },
  ],
  damp: false,
  early: [],
  latest_at: null,
  atmosphere_title: '',
  enclosures: [1],
  by_hand: false,
}

describe('specimens that are being conditioned', () => {
  const mounted = (changes: object = {}) =>
    mountInKit(PlacedGroup, {
      group: { ...PLACED, ...changes },
      policy: 'restart',
      now: NOW,
      busy: false,
      logged: true,
    })

  it('say how long they still take, and how far they are', () => {
    mounted()
    expect(shown()).toContain('18 h')
    expect(document.querySelector('[role="progressbar"]')!.getAttribute('aria-valuenow')).toBe('25')
    expect(shown()).toContain('W1, W2')
    expect(() => button('Go to bench')).toThrow()
  })

  it('lead to the bench once they are conditioned', () => {
    mounted({ ready: true, minutes: 1500 })
    expect(shown()).toContain('conditioned')
    expect(document.querySelector('a[href="/bench/7"]')).not.toBeNull()
    expect(document.querySelector('[role="progressbar"]')!.getAttribute('aria-valuenow')).toBe(
      '100',
    )
  })

  it('say that their clock stands, and what the log does not prove', () => {
    mounted({ runs_out_at: null, unproven_minutes: 42.4 })
    expect(shown()).toContain('clock stands')
    expect(shown()).toContain('42 min unproven')
  })

  it('are taken out together', async () => {
    const group = mounted()
    await press('Take out')
    expect(group.emitted('out')).toEqual([[[1, 2]]])
  })

  it('are weighed one by one; a mass that is none is not sent', async () => {
    const group = mounted()
    await press('weigh')
    expect(shown()).toContain('4.012 g at')
    await choose(group, 'Specimen', 2)
    await fill('Mass', '4,015')
    await submit('form.weigh')
    expect(field('Mass').value).toBe('')
    await fill('Mass', 'heavy')
    await submit('form.weigh')
    expect(group.emitted('weigh')).toEqual([[2, 4.015]])
  })
})

describe('specimens that wait for conditioning', () => {
  const mounted = (group: object, rooms: object[] = [ROOM]) => {
    const one = { ...WAITING, ...group }
    const shownOnes = { waiting: [one], own: one, rooms, more: 0, now: NOW, busy: false }
    return mountInKit(WaitingGroups, shownOnes)
  }

  it('are placed in the room of their test', async () => {
    const groups = mounted({})
    expect(shown()).toContain('Place 2 in Textile room')
    await press('Place 2')
    expect(groups.emitted('place')).toEqual([[1, [1, 2], []]])
  })

  it('have first confirmed what is to be done before, for all of them', async () => {
    const groups = mounted({ early: [{ code: 'mounted', title: 'Mounted on its frame' }] })
    expect(button('Place 2').disabled).toBe(true)
    const box = part(groups, 'VCheckbox')
    box.vm.$emit('update:modelValue', true)
    await settled()
    await press('Place 2')
    expect(groups.emitted('place')).toEqual([[1, [1, 2], ['mounted']]])
    box.vm.$emit('update:modelValue', false)
    await settled()
    expect(button('Place 2').disabled).toBe(true)
  })

  it('that arrived damp go to the drier first', async () => {
    const drier = { ...ROOM, id: 5, name: 'Drying cabinet', atmosphere: 'pre-conditioning' }
    const groups = mounted({ damp: true }, [ROOM, drier])
    expect(shown()).toContain('The sample arrived damp')
    await press('Pre-condition first')
    expect(groups.emitted('place')).toEqual([[5, [1, 2], []]])
  })

  it('say by when, and that it is too late', () => {
    mounted({ latest_at: '2026-11-02T12:30:00Z', atmosphere_title: 'Water bath' })
    expect(shown()).toContain('30:00')
    expect(shown()).toContain('into the water bath by')
    document.querySelector('.waiting')!.remove()
    mounted({ latest_at: '2026-11-02T11:00:00Z' })
    expect(shown()).toContain('overrun')
    expect(shown()).toContain('to be tested by')
  })
})

describe('what waits of one job', () => {
  const group = (test: string, rooms: number[], ids: number[], more: object = {}) => ({
    ...WAITING,
    test,
    enclosures: rooms,
    specimens: ids.map((id) => ({ id, label: `S${id}` })),
    ...more,
  })

  it('is one block, and what belongs in one room is placed at once', async () => {
    const waiting = [
      group('Scuff', [2], [1]),
      group('Rub dry', [1], [2, 3]),
      { ...group('Tear', [1], [9]), job_id: 8, job_number: 'J-0401' },
      group('Rub wet', [1], [4]),
      group('Mounted', [1], [5], { early: [{ code: 'm', title: 'Mounted' }] }),
    ]
    expect(byJob(waiting as never).map((job) => [job.number, job.groups.length])).toEqual([
      ['J-0400', 4],
      ['J-0401', 1],
    ])
    const rooms = [ROOM, { ...ROOM, id: 2, name: 'Paper room' }]
    const blocks = mountInKit(WaitingGroups, {
      waiting,
      own: null,
      rooms,
      more: 2,
      now: NOW,
      busy: false,
    })
    await press('Place all 3 in Textile room')
    expect(blocks.emitted('place')).toEqual([[1, [2, 3, 4], []]])
    expect(shown()).toContain('2 more groups are waiting')
  })

  it('has nothing to place at once where each test needs another room', () => {
    const waiting = [group('Scuff', [2], [1]), group('Rub', [1], [2]), group('Cold', [], [3])]
    expect(byJob(waiting as never)[0]!.together).toBeNull()
  })
})

describe('specimens in hand', () => {
  const hand = [
    { id: 1, code: 'J-0400-1-W1', label: 'W1' },
    { id: 2, code: 'J-0400-1-W2', label: 'W2' },
  ]

  it('are placed, taken out or put down together', async () => {
    const tray = mountInKit(InHandTray, { inHand: hand, text: '', room: ROOM, busy: false })
    await press('Place 2 in Textile room')
    await press('Take 2 out')
    await press('Clear scan')
    expect(tray.emitted()).toMatchObject({ place: [[[1, 2]]], out: [[[1, 2]]], putDown: [[]] })
  })

  it('are scanned one after another, each once', async () => {
    const sent = serve({
      'GET /api/specimens/by-code/J-0400-1-W1': { specimen: hand[0] },
      'GET /api/specimens/by-code/NONE': null,
      'GET /api/specimens/by-code/ODD': new Refused('The code ODD is not readable.'),
    })
    let used: ReturnType<typeof useInHand>
    mountInKit({ setup: () => ((used = useInHand()), () => null) })
    await used!.scan(' http://lab/s/J-0400-1-W1 ')
    await used!.scan('J-0400-1-W1')
    expect(used!.inHand.value).toEqual([hand[0]])
    expect(sent).toHaveLength(1)
    await used!.scan('NONE')
    expect(used!.scanSays.value).toBe('No specimen has the code NONE.')
    await used!.scan('ODD')
    expect(used!.scanSays.value).toBe('The code ODD is not readable.')
    used!.putDown()
    expect(used!.inHand.value).toEqual([])
  })
})

describe('a conditioning location', () => {
  const ATMOSPHERES = { enclosures: [], atmospheres: { 'textile-20-65': 'Textile room' } }

  it('is changed with the revision that was seen, and may be closed', async () => {
    const sent = serve({
      'GET /api/conditioning': ATMOSPHERES,
      'PUT /api/enclosures/1': {},
      'POST /api/enclosures/1/close': {},
    })
    const dialog = mountInKit(RoomDialog, { modelValue: false, room: ROOM, atmospheres: [] })
    await dialog.setProps({ modelValue: true })
    await settled()
    await fill('Capacity, specimens', '60')
    await fill('Logger address (optional)', '')
    await submit()
    expect(changes(sent)[0]).toMatchObject({
      to: 'PUT /api/enclosures/1',
      body: { name: 'Textile room', capacity: 60, host: null, port: 9100, revision: 6 },
    })
    await dialog.setProps({ modelValue: false })
    await dialog.setProps({ modelValue: true })
    await settled()
    await press('Close room')
    expect(changes(sent).at(-1)!.to).toBe('POST /api/enclosures/1/close')
  })

  it('asks for another set point with a reason; humidity may be left out', async () => {
    const dialog = mountInKit(SetPointDialog, { modelValue: false, room: ROOM })
    await dialog.setProps({ modelValue: true })
    await settled()
    expect(field('Temperature').value).toBe('20')
    expect(field('Humidity').value).toBe('')
    expect(button('Request set point').disabled).toBe(true)
    await fill('Temperature', '23,5')
    await fill('Reason', 'film is tested this week')
    await submit()
    expect(dialog.emitted('set')).toEqual([
      [
        {
          temperature_c: 23.5,
          temperature_tolerance_c: 2,
          humidity_percent: null,
          humidity_tolerance_percent: null,
          reason: 'film is tested this week',
        },
      ],
    ])
  })

  it('shows the specimens of one job as one bar, until they are conditioned', () => {
    const bars = barsOf([PLACED, { ...PLACED, test: 'Strip tension' }] as never)
    expect(bars).toHaveLength(1)
    expect(bars[0]).toMatchObject({ name: 'J-0400 Awning cloth, 4', count: 4, ready: false })
    const later = { ...PLACED, placed_at: '2026-11-02T08:00:00Z' }
    expect(barsOf([PLACED, later] as never)).toHaveLength(2)
  })
})
