import { describe, expect, it } from 'vitest'
import type { JobView, TestView } from '@/api/client'
import AmendDialog from '@/jobs/AmendDialog.vue'
import CustodyPane from '@/jobs/CustodyPane.vue'
import LimitsDialog from '@/jobs/LimitsDialog.vue'
import SetUpPanel from '@/jobs/SetUpPanel.vue'
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
} from '../serve'

const TEST = {
  id: 31,
  method: 'iso-13937-2',
  title: 'Trouser tear',
  parameters: { specimens_wanted: 5, speed_mm_min: 100 },
  revision: 3,
  held: null,
  to_go: 0,
  rows: [],
  specimens: [],
  set_up: ['speed_mm_min'],
  set_up_missing: [],
} as unknown as TestView
const JOB = {
  id: 7,
  number: 'J-0400',
  client: 'Quay Awnings',
  product: 'Awning cloth',
  lot: 'A-1',
  material: 'woven',
  client_remark: '',
  shelf: '',
  priority: 0,
  due_at: '2027-01-01T12:00:00Z',
  revision: 9,
  cancelled: null,
  tests: [TEST],
} as unknown as JobView
const METHODS = [
  {
    id: 'iso-13937-2',
    title: 'Trouser tear',
    properties: [{ name: 'tear_force', title: 'Tear force', unit: 'N', statistic: 'mean' }],
  },
]

describe('changes to a job', () => {
  it('wait for a reason, and send what was changed with the revision that was seen', async () => {
    await signedIn('receive')
    const sent = serve({ 'GET /api/methods': METHODS, 'PUT /api/jobs/7': {} })
    mountInKit(AmendDialog, { modelValue: true, job: JOB })
    await settled()
    expect(button('Save changes').disabled).toBe(true)
    expect(button('Cancel job').disabled).toBe(true)
    await fill('Reason (required for every change below)', 'the client called')
    await fill('Lot', 'A-2')
    await fill('Storage location', 'B 4')
    await press('Save changes')
    await submit('.leaf form')
    const [first] = changes(sent)
    expect(first!.to).toBe('PUT /api/jobs/7')
    expect(first!.body).toMatchObject({
      client: 'Quay Awnings',
      lot: 'A-2',
      shelf: 'B 4',
      priority: 0,
      due_at: '2027-01-01T12:00:00Z',
      revision: 9,
      reason: 'the client called',
    })
  })

  it('cancel it, keep the reason when that is refused, and drop it when it is done', async () => {
    await signedIn('receive')
    let isRunning = true
    const sent = serve({
      'GET /api/methods': METHODS,
      'POST /api/jobs/7/cancel': () => (isRunning ? new Refused('W1 is running.') : {}),
    })
    mountInKit(AmendDialog, { modelValue: true, job: JOB })
    await fill('Reason (required for every change below)', 'withdrawn')
    await press('Cancel job')
    expect(shown()).toContain('W1 is running.')
    expect(field('Reason (required for every change below)').value).toBe('withdrawn')
    isRunning = false
    await press('Cancel job')
    expect(field('Reason (required for every change below)').value).toBe('')
    expect(changes(sent).map((each) => each.body)).toEqual([
      { revision: 9, reason: 'withdrawn' },
      { revision: 9, reason: 'withdrawn' },
    ])
  })

  it('of a cancelled job are one: to reinstate it', async () => {
    await signedIn('receive')
    const sent = serve({ 'GET /api/methods': METHODS, 'POST /api/jobs/7/reinstate': {} })
    mountInKit(AmendDialog, { modelValue: true, job: { ...JOB, cancelled: 'withdrawn' } })
    await fill('Reason (required for every change below)', 'they want it after all')
    expect(shown()).not.toContain('Add test')
    await press('Undo cancellation')
    expect(changes(sent).map((each) => each.to)).toEqual(['POST /api/jobs/7/reinstate'])
  })

  it('hold, drop and recount its tests with the revision of the test', async () => {
    await signedIn('receive')
    const path = '/api/tests/31'
    const sent = serve({
      'GET /api/methods': METHODS,
      [`POST ${path}/hold`]: {},
      [`POST ${path}/cancel`]: {},
      [`PUT ${path}`]: {},
    })
    const other = { ...TEST, id: 32, title: 'Strip tension' }
    const dialog = mountInKit(AmendDialog, {
      modelValue: true,
      job: { ...JOB, tests: [TEST, other] },
    })
    await settled()
    expect(shown()).not.toContain('retest')
    const why = () => fill('Reason (required for every change below)', 'no time')
    await why()
    await press('hold')
    await why()
    await press('drop')
    await why()
    const count = document.querySelector<HTMLInputElement>(
      '[aria-label="Trouser tear, number of specimens"]',
    )!
    expect(button('per direction').disabled).toBe(true)
    count.value = '3'
    count.dispatchEvent(new Event('input', { bubbles: true }))
    await settled()
    await submit('form.count')
    expect(changes(sent)).toMatchObject([
      { to: `POST ${path}/hold`, body: { revision: 3, reason: 'no time' } },
      { to: `POST ${path}/cancel`, body: { revision: 3, reason: 'no time' } },
      { to: `PUT ${path}`, body: { revision: 3, parameters: { specimens_wanted: 3 } } },
    ])
    expect(dialog.exists()).toBe(true)
  })

  it('resume a test that is on hold, and retest one by whoever may release', async () => {
    await signedIn('receive', 'release')
    const sent = serve({
      'GET /api/methods': METHODS,
      'POST /api/tests/31/resume': {},
      'POST /api/tests/31/retest': {},
    })
    const held = { ...TEST, held: 'waiting for the client' }
    mountInKit(AmendDialog, { modelValue: true, job: { ...JOB, tests: [held] } })
    await settled()
    expect(shown()).toContain('on hold: waiting for the client')
    expect(button('drop').disabled).toBe(true)
    await fill('Reason (required for every change below)', 'they agreed')
    await press('resume')
    await fill('Reason (required for every change below)', 'they agreed')
    await press('retest')
    expect(changes(sent).map((each) => each.to)).toEqual([
      'POST /api/tests/31/resume',
      'POST /api/tests/31/retest',
    ])
  })
})

describe('the sample of a job', () => {
  const CUSTODY = {
    code: 'J-0400-R',
    tell: 'Notify Quay Awnings: the sample is used up',
    is_here: true,
    remains: 412.6,
    unit: 'mm',
    location: 'shelf B 4',
    kept_until: '2026-12-24T12:00:00Z',
    overdue: true,
    lines: [{ at: '2026-11-02T08:00:00Z', by: 'Ines', text: 'remainder stored' }],
  }

  it('is shown with what is left, where it is, and who is to be notified', async () => {
    serve({ 'GET /api/jobs/7/custody': CUSTODY })
    mountInKit(CustodyPane, { jobId: 7, mayWrite: false })
    await settled()
    expect(shown()).toContain('Notify Quay Awnings: the sample is used up.')
    expect(shown()).toContain('J-0400-R: 413 mm left, at shelf B 4 until')
    expect(document.querySelector('b.late')).not.toBeNull()
    expect(shown()).not.toContain('Record disposition')
  })

  it('takes a disposition: an amount only of what is stored or split off', async () => {
    const sent = serve({ 'GET /api/jobs/7/custody': CUSTODY, 'POST /api/jobs/7/custody': CUSTODY })
    const pane = mountInKit(CustodyPane, { jobId: 7, mayWrite: true })
    await settled()
    await fill('Location', 'cellar')
    await fill('Amount', '200')
    await submit()
    await choose(pane, 'Event', 'told')
    expect(() => field('Amount')).toThrow()
    await fill('Person', 'Ruben')
    await fill('Remarks', 'by telephone')
    await submit()
    await choose(pane, 'Event', 'disposed')
    expect(() => field('Person')).toThrow()
    expect(changes(sent).map((each) => each.body)).toEqual([
      { kind: 'kept', location: 'cellar', amount: 200, until: null, remark: '' },
      { kind: 'told', location: 'Ruben', amount: null, until: null, remark: 'by telephone' },
    ])
  })
})

describe('limits of a test', () => {
  const ROW = {
    property: 'tear_force',
    direction: 'warp',
    group: 'warp',
    title: 'Tear force',
    unit: 'N',
    criterion: { on: 'mean', op: 'at-least', limit: '25' },
  }

  it('are asked for each property of the method, before anything is judged', async () => {
    serve({ 'GET /api/methods': METHODS })
    const dialog = mountInKit(LimitsDialog, { modelValue: false, test: TEST })
    await settled()
    await dialog.setProps({ modelValue: true })
    await settled()
    expect(shown()).toContain('Limits of trouser tear')
    expect(shown()).toContain('Tear force')
    expect(shown()).not.toContain('Reason for the change')
  })

  it('need a reason once a specimen was tested', async () => {
    const sent = serve({ 'GET /api/methods': METHODS, 'PUT /api/tests/31/limits': {} })
    const test = { ...TEST, rows: [ROW], specimens: [{ run_id: 4 }] }
    const dialog = mountInKit(LimitsDialog, { modelValue: false, test })
    await settled()
    await dialog.setProps({ modelValue: true })
    await settled()
    expect(button('Save limits').disabled).toBe(true)
    await fill('Reason for the change', 'the specification was misread')
    expect(button('Save limits').disabled).toBe(false)
    await submit()
    const [first] = changes(sent)
    expect(first!.body).toMatchObject({ revision: 3, reason: 'the specification was misread' })
    const { limits } = first!.body as { limits: { property: string; direction: string }[] }
    expect(limits.map((limit) => [limit.property, limit.direction])).toEqual([
      ['tear_force', 'warp'],
    ])
    expect(dialog.emitted('update:modelValue')).toEqual([[false]])
  })
})

describe('the set-up of a test', () => {
  const PAGE = {
    parameters_schema: {
      properties: { speed_mm_min: { type: 'number', description: 'Crosshead speed.' } },
    },
  }
  const EARLIER = [
    {
      station: 'Frame 1',
      job_number: 'J-0399',
      at: '2026-11-01T08:00:00Z',
      parameters: { speed_mm_min: 120 },
    },
  ]

  it('is one line while nothing is missing, and sends only what was changed', async () => {
    const sent = serve({
      'GET /api/methods/iso-13937-2': PAGE,
      'GET /api/tests/31/set-up/earlier': EARLIER,
      'PUT /api/tests/31/set-up': {},
    })
    mountInKit(SetUpPanel, { test: TEST })
    await settled()
    expect(shown()).toContain('Set up')
    expect(document.querySelector('form')).toBeNull()
    await press('change')
    expect(shown()).toContain('Frame 1 was last set up for J-0399')
    await press('use these values')
    expect(shown()).not.toContain('was last set up')
    await submit()
    expect(changes(sent).map((each) => each.body)).toEqual([
      { parameters: { speed_mm_min: 120 }, revision: 3, reason: '' },
    ])
    expect(document.querySelector('form')).toBeNull()
  })

  it('is open while a value is missing, and asks why once specimens count', async () => {
    serve({ 'GET /api/methods/iso-13937-2': PAGE, 'GET /api/tests/31/set-up/earlier': [] })
    const specimens = [{ state: 'tested' }]
    mountInKit(SetUpPanel, { test: { ...TEST, set_up_missing: ['speed_mm_min'], specimens } })
    await settled()
    expect(shown()).toContain('Required before a result can be computed')
    expect(field('Specimens already count. Reason for the change')).toBeTruthy()
  })
})
