import { describe, expect, it } from 'vitest'
import CalibrationDialog from '@/instruments/CalibrationDialog.vue'
import CheckBlock from '@/instruments/CheckBlock.vue'
import CheckDialog from '@/instruments/CheckDialog.vue'
import { chartOf, type Check } from '@/instruments/instruments'
import NewInstrumentDialog from '@/instruments/NewInstrumentDialog.vue'
import SuppliesPane from '@/instruments/SuppliesPane.vue'
import { mountInKit } from './kit'
import {
  button,
  changes,
  field,
  fill,
  press,
  Refused,
  serve,
  settled,
  shown,
  submit,
} from '../serve'

const INSTRUMENT = { serial: 'F-1', name: 'Frame 1', station: 'Bench A', unit: 'N' }
const READING = {
  at: '2026-11-02T08:00:00Z',
  by: 'Ines',
  value: 10.2,
  verdict: 'good',
  text: 'within the limit',
}
const CHECK = {
  id: 4,
  serial: 'F-1',
  title: 'Reference weight',
  target: 10,
  warn: 0.2,
  limit: 0.5,
  unit: 'N',
  due: true,
  due_at: '2026-11-01T08:00:00Z',
  readings: [READING],
} as unknown as Check

/** A dialog that was shut, and is opened as its page does it. */
async function opened(component: object, props: object) {
  const mounted = mountInKit(component, { ...props, modelValue: false })
  await mounted.setProps({ modelValue: true })
  await settled()
  return mounted
}

describe('a calibration', () => {
  it('is recorded at noon of its days, and closes its dialog', async () => {
    const sent = serve({ 'POST /api/instruments/F-1/calibrate': {} })
    const dialog = await opened(CalibrationDialog, { instrument: INSTRUMENT })
    expect(button('Record calibration').disabled).toBe(true)
    await fill('Certificate', 'C-9')
    await fill('Calibrated on', '2026-11-02')
    expect(button('Record calibration').disabled).toBe(true)
    await fill('Next due', '2027-11-02')
    await submit()
    const noon = (day: string) => new Date(`${day}T12:00`).toISOString()
    expect(changes(sent)).toEqual([
      {
        to: 'POST /api/instruments/F-1/calibrate',
        query: {},
        body: {
          certificate: 'C-9',
          calibrated_at: noon('2026-11-02'),
          calibration_due_at: noon('2027-11-02'),
        },
      },
    ])
    expect(dialog.emitted('update:modelValue')).toEqual([[false]])
  })

  it('that was refused keeps the dialog open with the reason', async () => {
    serve({ 'POST /api/instruments/F-1/calibrate': new Refused('The due date has passed.') })
    const dialog = await opened(CalibrationDialog, { instrument: INSTRUMENT })
    await fill('Certificate', 'C-9')
    await fill('Calibrated on', '2026-11-02')
    await fill('Next due', '2026-11-01')
    await submit()
    expect(shown()).toContain('The due date has passed.')
    expect(dialog.emitted('update:modelValue')).toBeUndefined()
  })
})

describe('a reference check', () => {
  it('begins with the unit of its instrument and reads decimal commas', async () => {
    const sent = serve({ 'POST /api/instruments/F-1/checks': [] })
    await opened(CheckDialog, { instrument: INSTRUMENT })
    expect(field('Unit').value).toBe('N')
    await fill('Quantity', 'Reference weight')
    await fill('Reference value', '10,5')
    await fill('Warning at ±', '0.2')
    await fill('Limit ±', '0.5')
    await submit()
    expect(changes(sent)[0]!.body).toEqual({
      title: 'Reference weight',
      unit: 'N',
      target: 10.5,
      warn: 0.2,
      limit: 0.5,
      every_days: 7,
    })
  })

  it('shows its newest reading, and sends a reading with the unit that was typed', async () => {
    const sent = serve({ 'POST /api/checks/4/readings': [] })
    mountInKit(CheckBlock, { check: CHECK, mayEnd: false })
    expect(shown()).toContain('Ines: 10.2 N')
    expect(shown()).toContain('was due')
    expect(shown()).not.toContain('end this check')
    await fill('Reading', '10.1 N')
    await submit()
    expect(changes(sent)).toMatchObject([{ body: { value: 10.1, unit: 'N', is_sure: false } }])
    expect(field('Reading').value).toBe('')
  })

  it('asks for certainty of a reading that looks wrong, and sends it once more', async () => {
    const sent = serve({
      'POST /api/checks/4/readings': ({ body }: { body: unknown }) =>
        (body as { is_sure: boolean }).is_sure
          ? []
          : new Refused('10.1 cN is 100 times less.', 'needs-reason'),
    })
    mountInKit(CheckBlock, { check: CHECK, mayEnd: true })
    await fill('Reading', '10.1 cN')
    await submit()
    expect(shown()).toContain('100 times less')
    expect(field('Reading').value).toBe('10.1 cN')
    await press('Record 10.1 cN')
    expect(changes(sent).map((each) => (each.body as { is_sure: boolean }).is_sure)).toEqual([
      false,
      true,
    ])
  })

  it('is ended by whoever may', async () => {
    const sent = serve({ 'POST /api/checks/4/close': [] })
    mountInKit(CheckBlock, { check: CHECK, mayEnd: true })
    await press('end this check')
    expect(changes(sent).map((each) => each.to)).toEqual(['POST /api/checks/4/close'])
  })

  it('is drawn about its reference value, with room for the farthest reading', () => {
    const far = { ...READING, value: 11, text: 'out', verdict: 'out' }
    const chart = chartOf({ ...CHECK, readings: [READING, far] }, 240, 100)
    expect(chart.points.map((point) => point.x)).toEqual([20, 40])
    const [first, last] = chart.points.map((point) => point.y)
    expect(last).toBeCloseTo(8)
    expect(first).toBeGreaterThan(last!)
    expect(chart.limit[0] + chart.limit[1]).toBeCloseTo(100)
    expect(chart.warn[0]).toBeGreaterThan(chart.limit[0])
  })
})

describe('a new instrument', () => {
  const KINDS = [
    { code: 'pendulum', title: 'Pendulum', role: 'indicator', faults: [] },
    { code: 'logger', title: 'Logger', role: 'logger', faults: [] },
  ]

  it('needs name, serial number, certificate and its dates; range and line may be left', async () => {
    const sent = serve({ 'GET /api/device-kinds': KINDS, 'POST /api/instruments': {} })
    const dialog = await opened(NewInstrumentDialog, {})
    await fill('Name', 'Pendulum 2')
    await fill('Serial number', 'P-2')
    await fill('Certificate', 'C-1')
    await fill('Calibrated on', '2026-10-01')
    expect(button('Add instrument').disabled).toBe(true)
    await fill('Next due', '2027-10-01')
    await fill('Range from', '0')
    await fill('to', '22')
    await fill('Unit', 'J')
    expect(button('Add instrument').disabled).toBe(false)
    await submit()
    expect(changes(sent)[0]!.body).toMatchObject({
      name: 'Pendulum 2',
      kind: 'pendulum',
      serial: 'P-2',
      least: 0,
      most: 22,
      unit: 'J',
      host: '',
      port: 0,
    })
    expect(dialog.emitted('added')).toEqual([['P-2']])
  })
})

describe('consumables', () => {
  const LOT = {
    id: 7,
    kind: 'scuff felt',
    lot: 'F-1',
    station: '',
    opened_at: '2026-11-01T08:00:00Z',
    opened_by: 'Ines',
    used: 100,
    unit: 'rubs',
    limit_count: 100,
    limit_days: 30,
    due: true,
    text: 'Change the scuff felt',
    finished_at: null,
  }
  const LISTED = { in_use: [LOT], finished: [], kinds: ['scuff felt'] }

  it('are listed with what they have done, and finished by a click', async () => {
    const sent = serve({
      'GET /api/consumables': LISTED,
      'GET /api/instruments': [],
      'POST /api/consumables/7/finish': LISTED,
    })
    mountInKit(SuppliesPane)
    await settled()
    const cells = [...document.querySelectorAll('tbody td')].map((cell) =>
      cell.textContent?.replace(/\s+/g, ' ').trim(),
    )
    expect(cells.slice(0, 3)).toEqual(['scuff felt', 'F-1', 'all stations'])
    expect(cells.slice(4, 6)).toEqual(['100 rubs', '100, 30 d'])
    expect(document.querySelector('tr.due')).not.toBeNull()
    await press('used up')
    expect(changes(sent).map((each) => each.to)).toEqual(['POST /api/consumables/7/finish'])
  })

  it('open a lot for all stations unless one is named', async () => {
    const sent = serve({
      'GET /api/consumables': { in_use: [], finished: [LOT], kinds: ['scuff felt'] },
      'GET /api/instruments': [],
      'POST /api/consumables': LISTED,
    })
    mountInKit(SuppliesPane)
    await settled()
    expect(shown()).toContain('No lot is in use')
    expect(shown()).toContain('lot F-1: 100 used')
    await fill('Item', 'scuff felt')
    await fill('Lot', 'F-2')
    await fill('Change after', '200')
    await submit()
    expect(changes(sent)).toMatchObject([
      {
        body: {
          kind: 'scuff felt',
          lot: 'F-2',
          station_id: null,
          limit_count: 200,
          limit_days: null,
        },
      },
    ])
    expect(field('Lot').value).toBe('')
  })
})
