import { describe, expect, it } from 'vitest'
import SignInPage from '@/app/SignInPage.vue'
import AvoidedAreas from '@/cutting/AvoidedAreas.vue'
import ChosenSpecimen from '@/cutting/ChosenSpecimen.vue'
import SheetNext from '@/cutting/SheetNext.vue'
import GrammageForm from '@/measuring/GrammageForm.vue'
import ReadingField from '@/measuring/ReadingField.vue'
import OrderOfWork from '@/today/OrderOfWork.vue'
import PinLine from '@/today/PinLine.vue'
import TodayAside from '@/today/TodayAside.vue'
import WhatIf from '@/today/WhatIf.vue'
import { signedIn } from './desk'
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

const NOW = Date.parse('2026-11-02T08:00:00Z')
const BLOCK = {
  id: 'b1',
  test_id: 31,
  test: 'J-0400 tear',
  step: 'pull 1',
  job_id: 7,
  job_number: 'J-0400',
  at: 'bench',
  begins: '2026-11-02T09:00:00Z',
  end: '2026-11-02T10:00:00Z',
  person: 'Ines',
  person_id: 1,
  place: 'Frame 1',
  pinned: false,
}
const TODAY = {
  tell: [],
  next: [BLOCK, { ...BLOCK, id: 'b2', test: 'J-0401 strip', person: 'Pelle', person_id: 2 }],
  before_home: [],
  late: [],
  at_risk: [],
  unplanned: [],
  moved: [],
}

describe('beside the schedule', () => {
  const aside = (today: object, mine = false, busy = false) =>
    mountInKit(TodayAside, { today: { ...TODAY, ...today }, now: NOW, busy, mine })

  it('stands what is next, for everybody or for oneself', async () => {
    await signedIn()
    const all = aside({})
    expect(document.querySelectorAll('ol li')).toHaveLength(2)
    await press('my work')
    expect(all.emitted('update:mine')).toEqual([[true]])
    all.unmount()
    aside({}, true)
    expect(document.querySelectorAll('ol li')).toHaveLength(1)
    expect(document.querySelector('ol a')!.getAttribute('href')).toContain('/bench/7')
  })

  it('leads whoever may release to what is waiting for review', async () => {
    await signedIn('release')
    serve({ 'GET /api/jobs/waiting': { judge: 2 } })
    const reviewer = aside({})
    await settled()
    expect(shown()).toContain('2 jobs are waiting for review. Open the list')
    reviewer.unmount()
    await signedIn('test')
    serve({ 'GET /api/jobs/waiting': { judge: 2 } })
    aside({})
    await settled()
    expect(shown()).not.toContain('waiting for review')
  })

  it('says how soon, in an hour and less, and that it is planning while it is', () => {
    aside({ next: [{ ...BLOCK, begins: '2026-11-02T07:59:00Z' }] }).unmount()
    const soon = aside({ next: [{ ...BLOCK, begins: '2026-11-02T08:20:00Z' }] })
    expect(shown()).toContain('in 20 min')
    soon.unmount()
    const none = aside({ next: [] }, true)
    expect(shown()).toContain('Nothing is planned for you.')
    none.unmount()
    aside({ next: [] }, true, true)
    expect(shown()).toContain('Planning …')
    expect(shown()).not.toContain('Nothing is planned')
  })

  it('names what is late and why, what is close, and what has no place', () => {
    const row = { id: 'r', job_id: 7, test: 'J-0400 tear', why: 'pull: Ines is away', minutes: 90 }
    aside({
      late: [row],
      at_risk: [{ ...row, minutes: 20 }],
      unplanned: [{ ...row, why: 'no one is authorised' }],
      tell: ['Quay Awnings: J-0400 will be late'],
      moved: ['J-0401 strip: 09:00 → 10:00'],
      before_home: [BLOCK],
    })
    expect(shown()).toContain('by 1 h 30 min: pull: Ines is away.')
    expect(shown()).toContain('20 min to spare.')
    expect(shown()).toContain('no one is authorised.')
    expect(shown()).toContain('Quay Awnings: J-0400 will be late.')
    for (const title of ['To notify', 'Before going home', 'Late', 'At risk', 'Unscheduled'])
      expect(shown()).toContain(title)
  })
})

describe('a pin', () => {
  it('holds a step at a time for whom it was planned for, and lets it go', async () => {
    const sent = serve({ 'POST /api/schedule/pin': {}, 'POST /api/schedule/unpin': {} })
    const start = '2026-11-02T09:00:00.000Z'
    const pin = mountInKit(PinLine, { block: { ...BLOCK, pinned: true }, start })
    await submit()
    await press('unpin')
    expect(changes(sent)).toMatchObject([
      {
        to: 'POST /api/schedule/pin',
        body: { test_id: 31, step: 'pull 1', start, person: 'Ines' },
      },
      { to: 'POST /api/schedule/unpin', body: { test_id: 31, step: 'pull 1' } },
    ])
    expect(pin.emitted('pinned')).toHaveLength(2)
  })

  it('in the past is refused, and stays open', async () => {
    serve({ 'POST /api/schedule/pin': new Refused('The time has passed.') })
    const pin = mountInKit(PinLine, { block: BLOCK, start: '2026-11-02T09:00:00.000Z' })
    expect(() => button('unpin')).toThrow()
    await submit()
    expect(shown()).toContain('The time has passed.')
    expect(pin.emitted('pinned')).toBeUndefined()
  })
})

describe('what if', () => {
  const LANES = [
    { kind: 'station', name: 'Frame 1', blocks: [BLOCK] },
    { kind: 'person', name: 'Ines', blocks: [{ ...BLOCK, job_id: 9, job_number: 'J-0402' }] },
  ]

  it('asks with a station, a job and one more, and says that nothing was changed', async () => {
    const sent = serve({
      'POST /api/schedule/what-if': {
        added_ends: null,
        later: ['J-0402 ends 2 h later'],
        sooner: [],
        stayed_percent: 80,
        late: [{ id: 'x', test: 'J-0402 strip', minutes: 120 }],
        moved: [],
      },
    })
    const form = mountInKit(WhatIf, { lanes: LANES })
    const choice = (label: string) => part(form, 'VSelect', label)
    expect((choice('Unavailable station').props() as { items: unknown }).items).toEqual(['Frame 1'])
    expect((choice('Additional job like').props() as { items: unknown }).items).toEqual([
      { value: 7, title: 'J-0400' },
      { value: 9, title: 'J-0402' },
    ])
    await choose(form, 'Unavailable station', 'Frame 1')
    await choose(form, 'Additional job like', 9)
    await submit()
    expect(changes(sent)[0]!.body).toMatchObject({
      away: [{ station: 'Frame 1' }],
      due: [],
      one_more_like: 9,
    })
    expect(shown()).toContain('J-0402 ends 2 h later')
    expect(shown()).toContain('80 % of the steps stay as planned.')
    expect(shown()).toContain('J-0402 strip would be 2 h 00 min late')
    expect(shown()).toContain('The plan was not changed.')
  })
})

describe('the order of work', () => {
  it('gives each batch its temperature, its pendulum and its planned times', async () => {
    const rack = {
      job_id: 7,
      test: 'J-0400 Izod',
      bars: 10,
      temperature_c: -30,
      pendulum_j: 5.5,
      changes_pendulum: true,
      goes_in: null,
      is_at_room: false,
      soaked_at: null,
      struck_from: null,
      struck_until: null,
    }
    const heat = { temperature_c: 230, load_kg: 2.16, tests: ['J-0403 flow'], job_ids: [8] }
    serve({ 'GET /api/schedule/order-of-work': { racks: [rack], heats: [heat] } })
    mountInKit(OrderOfWork)
    await settled()
    const cells = [...document.querySelectorAll('tbody td')].map((cell) =>
      cell.textContent?.replace(/\s+/g, ' ').trim(),
    )
    expect(cells).toEqual([
      'J-0400 Izod',
      '10',
      '−30 °C',
      'change to 5.5 J',
      '–',
      '–',
      'not scheduled',
    ])
    expect(shown()).toContain('230 °C, 2.16 kg: J-0403 flow')
  })
})

describe('at the sheet', () => {
  it('a picked specimen is locked, or turned where it may be', async () => {
    const specimen = {
      name: 'W1',
      part: '',
      disc: false,
      test: '',
      lies: 'warp',
      works_on: 'tears weft yarns',
      halves: [],
      hot_knife: true,
      x_mm: 10,
      locked: false,
      turnable: true,
    }
    const chosen = mountInKit(ChosenSpecimen, { specimen, open: true, busy: false })
    expect(shown()).toContain('long side along the warp')
    expect(shown()).toContain('cut with a hot knife')
    await press('Lock')
    await press('Turn')
    expect(chosen.emitted()).toMatchObject({ lock: [[]], turn: [[]] })
    await chosen.setProps({ specimen: { ...specimen, locked: true } })
    expect(button('Unlock')).toBeTruthy()
    expect(button('Turn').disabled).toBe(true)
    await chosen.setProps({ specimen: { ...specimen, x_mm: null } })
    expect(() => button('Lock')).toThrow()
  })

  it('an area to avoid is removed while the sheet is open', async () => {
    const areas = [{ reason: 'stain' }, { reason: 'crease' }]
    const list = mountInKit(AvoidedAreas, { areas, open: true })
    document.querySelectorAll<HTMLButtonElement>('li button')[1]!.click()
    expect(list.emitted('unmark')).toEqual([[1]])
    await list.setProps({ open: false })
    expect(document.querySelector('li button')).toBeNull()
  })

  it('the next action stands above what is wrong, the first five of it', () => {
    const broken = Array.from({ length: 6 }, (_, place) => ({ sentence: `rule ${place}` }))
    const sheet = { released: false, shortage: '', left_to_cut: 0, crossings: [] }
    const next = { text: 'Confirm cut', why: '', go: () => undefined }
    mountInKit(SheetNext, { sheet, next, broken, placing: 0, busy: false, refused: '' })
    expect(button('Confirm cut').disabled).toBe(false)
    expect(shown()).toContain('6 rules are broken')
    expect(shown()).toContain('rule 4.')
    expect(shown()).not.toContain('rule 5.')
  })

  it('shows how far a search is, and that it still checks the rules', async () => {
    const sheet = { released: false, shortage: '', left_to_cut: 0, crossings: [] }
    const next = { text: 'Place', why: 'nothing lies yet', go: () => undefined }
    const shownNext = mountInKit(SheetNext, {
      sheet,
      next,
      broken: [],
      placing: 1,
      busy: true,
      refused: '',
    })
    expect(shown()).toContain('Searching the shortest length')
    expect(button('Placing').disabled).toBe(true)
    await shownNext.setProps({ placing: 1000 })
    expect(shown()).toContain('Checking every rule')
  })
})

describe('measuring', () => {
  it('splits the masses of pieces at blanks and semicolons', async () => {
    const view = { blank_text: '100 x 100 mm', grammage_g_m2: 212 }
    const form = mountInKit(GrammageForm, {
      view,
      balanced: true,
      busy: false,
      modelValue: '2,12; 2.13 2.11',
    })
    expect(shown()).toContain('Now 212 g/m²')
    await submit()
    await press('Read the balance')
    expect(form.emitted('weighed')).toEqual([[[2.12, 2.13, 2.11]]])
    expect(form.emitted('read')).toHaveLength(1)
  })

  it('reads the gauge by the space bar, only while nothing is typed', async () => {
    const form = mountInKit(ReadingField, {
      label: 'Width, place 1',
      act: 'Next',
      busy: false,
      modelValue: '',
    })
    const key = (key: string) => {
      const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true })
      field('Width, place 1').dispatchEvent(event)
      return event.defaultPrevented
    }
    expect([key(' '), key('Backspace'), key('5')]).toEqual([true, true, false])
    await form.setProps({ modelValue: '14' })
    expect([key(' '), key('Backspace')]).toEqual([false, false])
    await submit()
    expect(form.emitted()).toMatchObject({ gauge: [[]], back: [[]], enter: [[]] })
  })
})

describe('signing in', () => {
  const ME = { id: 1, name: 'Ines', role: 'technician', may: [], writing: {} }

  it('sends the login without the blanks around it', async () => {
    const sent = serve({ 'POST /api/session': ME })
    mountInKit(SignInPage, { away: false })
    expect(button('Sign in').disabled).toBe(true)
    await fill('Login', ' ines ')
    await fill('Password', 'bench-demo')
    await submit()
    expect(changes(sent)[0]!.body).toEqual({ login: 'ines', password: 'bench-demo' })
  })

  it('says what was wrong, and that the server is away', async () => {
    serve({ 'POST /api/session': new Refused('Login or password is not right.', 'sign-in', 401) })
    const page = mountInKit(SignInPage, { away: false })
    await fill('Login', 'ines')
    await fill('Password', 'wrong')
    await submit()
    expect(shown()).toContain('Login or password is not right.')
    await page.setProps({ away: true })
    expect(shown()).toContain('The server or its database does not answer.')
  })
})
