import { describe, expect, it, vi } from 'vitest'
import BenchHead from '@/bench/BenchHead.vue'
import DensityPanel from '@/bench/DensityPanel.vue'
import NextStep from '@/bench/NextStep.vue'
import PhotoStrip from '@/bench/PhotoStrip.vue'
import ReadWith from '@/bench/ReadWith.vue'
import ReadyList from '@/bench/ReadyList.vue'
import TestTabs from '@/bench/TestTabs.vue'
import UndoLine from '@/bench/UndoLine.vue'
import VoidKeys from '@/bench/VoidKeys.vue'
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

const STEP = {
  act: 'measure',
  title: 'Measure W1',
  why: 'The width decides.',
  button: 'Record width',
  kind: 'do',
  confirms: [],
  asks: [],
  hold: false,
  caution: '',
  held_until: null,
  hands_on_min: 1,
  unattended_min: 0,
}
const WIDTH = {
  name: 'width_mm',
  title: 'width',
  unit: 'mm',
  kind: 'number',
  choices: [],
  gauge: 'caliper',
  required: true,
  preset: null,
  text: {},
}
const CALIPER = {
  id: 4,
  name: 'Caliper 1',
  kind: 'caliper',
  serial: 'C-1',
  simulated: true,
  overdue: false,
}

function nextStep(step: object, props: object = {}) {
  return mountInKit(NextStep, {
    step: { ...STEP, ...step },
    also: [],
    proposals: [],
    specimenId: 9,
    gauges: [CALIPER],
    shows: [],
    device: 'Frame 1',
    serial: 'F-1',
    busy: false,
    ...props,
  })
}

describe('the next step', () => {
  it('sends a number as a number, and what is none as it was typed', async () => {
    const step = nextStep({ asks: [WIDTH] })
    await fill('Width', '14,9')
    await submit()
    await fill('Width', 'wide')
    await submit()
    await fill('Width', ' ')
    await submit()
    expect(step.emitted('go')).toEqual([
      [{ width_mm: 14.9 }, undefined, {}],
      [{ width_mm: 'wide' }, undefined, {}],
      [{ width_mm: null }, undefined, {}],
    ])
  })

  it('reads a gauge for this specimen, and names it only while its value stands', async () => {
    const sent = serve({ 'POST /api/gauges/4/read': { value: 15.02, gauge: 'C-1' } })
    const step = nextStep({ asks: [WIDTH] })
    await press('Read caliper')
    expect(changes(sent)[0]!.body).toEqual({ specimen_id: 9, field: 'width_mm' })
    expect(field('Width').value).toBe('15.02')
    await submit()
    await fill('Width', '15.1')
    await submit()
    expect(step.emitted('go')!.map((sentOn) => sentOn[2])).toEqual([{ width_mm: 'C-1' }, {}])
  })

  it('says why a gauge gave nothing', async () => {
    serve({ 'POST /api/gauges/4/read': new Refused('Caliper 1 does not answer.', 'gauge', 503) })
    nextStep({ asks: [WIDTH] })
    await press('Read caliper')
    expect(shown()).toContain('Caliper 1 does not answer.')
  })

  it('gathers the readings of a list one after another', async () => {
    const values = [14.9, 15]
    serve({ 'POST /api/gauges/4/read': () => ({ value: values.shift(), gauge: 'C-1' }) })
    nextStep({ asks: [{ ...WIDTH, kind: 'numbers' }] })
    await press('Read caliper')
    await press('Read caliper')
    expect(field('Width').value).toBe('14.9 15')
  })

  it('takes what the device shows, from the device', async () => {
    const asks = [{ ...WIDTH, gauge: '' }]
    const shows = [{ name: 'width_mm', title: 'Width', value: 15.5 }]
    const step = nextStep({ asks }, { shows })
    await press('Frame 1 shows 15.5')
    await submit()
    expect(step.emitted('go')).toEqual([[{ width_mm: 15.5 }, undefined, { width_mm: 'F-1' }]])
  })

  it('makes each answer of a lone question a button', async () => {
    const step = nextStep({
      asks: [
        { ...WIDTH, name: 'held', title: 'result', kind: 'choice', choices: ['held', 'failed'] },
      ],
    })
    await press('failed')
    expect(step.emitted('go')).toEqual([[{ held: 'failed' }, undefined]])
    await submit()
    expect(step.emitted('go')).toHaveLength(1)
  })

  it('is held while its clock runs, unless a reason follows', async () => {
    const held_until = new Date(Date.now() + 60_000).toISOString()
    const step = nextStep({ held_until })
    expect(document.querySelector('[role="timer"]')!.textContent).toContain('Record width in')
    await submit()
    expect(step.emitted('go')).toBeUndefined()
    await press('Continue now with a reason')
    expect(step.emitted('go')).toEqual([[{}, undefined, {}]])
  })

  it('that looks suspect is examined before it can be accepted', async () => {
    const step = nextStep({ kind: 'suspect' })
    await submit()
    await press('Examine the trace')
    expect(step.emitted('examine')).toHaveLength(2)
    expect(step.emitted('go')).toBeUndefined()
  })

  it('gives way to an action beside it that asks for values, and comes back', async () => {
    const beside = {
      ...STEP,
      act: 'noted',
      title: 'Note a value',
      button: 'Note value',
      asks: [WIDTH],
    }
    const ending = { ...STEP, act: 'end', kind: 'end', button: 'End series' }
    const step = nextStep({}, { also: [beside, ending] })
    await press('Note value')
    expect(document.querySelector('h2')!.textContent).toBe('Note a value')
    await press('Cancel')
    expect(document.querySelector('h2')!.textContent).toBe('Measure W1')
    await press('Note value')
    await fill('Width', '3')
    await submit()
    await press('End series')
    expect(step.emitted('go')).toEqual([
      [{ width_mm: 3 }, 'noted', {}],
      [{}, 'end'],
    ])
  })

  it('offers what the specimens so far propose', async () => {
    const proposal = { name: 'charge_ml', title: 'charge', unit: 'mL', value: 12 }
    const step = nextStep({}, { proposals: [proposal] })
    await press('Set charge to 12 mL')
    expect(step.emitted('propose')).toEqual([[proposal]])
  })
})

describe('beside the step', () => {
  it('the ready check shows what a device reads, and undoes what a hand confirmed', async () => {
    const list = mountInKit(ReadyList, {
      checks: [
        {
          code: 'a',
          title: 'Force zeroed',
          reason: '',
          reads: 'force',
          ticked: true,
          text: '0.0 N',
          event: null,
        },
        {
          code: 'b',
          title: 'Legs centred',
          reason: '',
          reads: null,
          ticked: true,
          text: 'by hand',
          event: 3,
        },
        {
          code: 'c',
          title: 'Guard closed',
          reason: '',
          reads: null,
          ticked: false,
          text: '',
          event: null,
        },
      ],
      busy: false,
    })
    expect(document.querySelectorAll('li.ticked')).toHaveLength(2)
    expect(shown()).toContain('0.0 N')
    expect(shown()).not.toContain('by hand')
    await press('undo')
    expect(list.emitted('takeBack')).toEqual([[3]])
  })

  it('the last action can be undone, where it can', async () => {
    const line = mountInKit(UndoLine, { view: { undo: { number: 5, title: 'Zero' } }, busy: false })
    expect(shown()).toContain('Last: Zero')
    await press('undo')
    expect(line.emitted('takeBack')).toEqual([[5]])
    line.unmount()
    mountInKit(UndoLine, { view: { undo: null }, busy: false })
    expect(() => button('undo')).toThrow()
  })

  it('a void has its code at once, or its reason first', async () => {
    const codes = [
      { code: 'slipped', title: 'Slipped', text: '', needs_reason: false },
      { code: 'set-aside', title: 'Excluded', text: '', needs_reason: true },
    ]
    const notes = [
      { code: 'at-spring', title: 'Broke at the spring', text: '', needs_reason: false },
    ]
    const keys = mountInKit(VoidKeys, { codes, notes, noted: ['at-spring'], busy: false })
    await press('Slipped')
    await press('Excluded')
    const reason = document.querySelector<HTMLInputElement>('.leaf input')!
    reason.value = 'a bubble'
    reason.dispatchEvent(new Event('input', { bubbles: true }))
    await settled()
    await submit()
    await press('Broke at the spring · recorded')
    expect(keys.emitted('void')).toEqual([
      ['slipped', ''],
      ['set-aside', 'a bubble'],
    ])
    expect(keys.emitted('note')).toEqual([['at-spring', false]])
  })

  it('tests are tabs with what is left of them', async () => {
    const tests = [
      { id: 1, title: 'Tear', to_go: 3 },
      { id: 2, title: 'Strip', to_go: 0 },
    ]
    const tabs = mountInKit(TestTabs, { tests, open: 2 })
    const read = [...document.querySelectorAll('[role="tab"]')].map((tab) => [
      tab.textContent?.replace(/\s+/g, ' ').trim(),
      tab.getAttribute('aria-selected'),
    ])
    expect(read).toEqual([
      ['Tear 3 to go', 'false'],
      ['Strip done', 'true'],
    ])
    await press('Tear')
    expect(tabs.emitted('pick')).toEqual([[1]])
  })

  it('specimens stand in the groups of their direction', () => {
    const specimen = (id: number, label: string, direction: string) => ({
      id,
      label,
      direction,
      state: 'ready',
      spare: false,
      void: null,
      value_text: null,
      flags: [],
    })
    const test = {
      id: 1,
      job_id: 7,
      job_number: 'J-0400',
      job_product: 'Awning cloth',
      method: 'iso-13937-2',
      shape: 'rectangle',
      specimens: [specimen(1, 'W1', 'warp'), specimen(2, 'F1', 'weft'), specimen(3, 'W2', 'warp')],
    }
    mountInKit(BenchHead, { test, tests: [test], inHand: 1 })
    expect(document.querySelectorAll('.slips .gap')).toHaveLength(1)
    expect(document.querySelector('.slips')!.textContent.replace(/\s+/g, '')).toMatch(/W1.*W2.*F1/)
    expect(shown()).toContain('iso-13937-2')
  })
})

describe('instruments that readings were taken with', () => {
  it('come with those that serve the method first, and without the retired', async () => {
    const each = (serial: string, serves: string[], retired = false) => ({
      serial,
      name: serial,
      station: '',
      serves,
      retired,
    })
    serve({
      'GET /api/instruments': [
        each('A-1', []),
        each('B-1', ['iso-37']),
        each('C-1', ['iso-37'], true),
      ],
    })
    const chosen = mountInKit(ReadWith, { method: 'iso-37', modelValue: '' })
    await settled()
    const items = (
      chosen.findComponent({ name: 'VSelect' }).props() as { items: { value: string }[] }
    ).items
    expect(items.map((item) => item.value)).toEqual(['', 'B-1', 'A-1'])
    await choose(chosen, 'Read with', 'B-1')
    expect(chosen.emitted('update:modelValue')).toEqual([['B-1']])
  })
})

describe('the register of densities', () => {
  const ROW = {
    id: 1,
    formulation: 'PP 12',
    revision: 'b',
    density_g_cm3: 0.7386,
    temperature_c: 230,
    runs: 3,
    sd_g_cm3: 0.0004,
    in_force: true,
  }
  const test = (method: string, set_up: string[] = []) => ({ id: 31, method, set_up })

  it('gives a density to a test that needs one', async () => {
    await signedIn()
    const sent = serve({ 'GET /api/densities': [ROW], 'POST /api/tests/31/use-density': {} })
    mountInKit(DensityPanel, { test: test('iso-1133-1-b', ['melt_density_g_cm3']) })
    await settled()
    expect(shown()).toContain('0.7386 g/cm³ at 230 °C, 3 runs, SD 0.0004')
    await press('PP 12')
    await submit()
    expect(changes(sent)).toMatchObject([{ body: { formulation: 'PP 12', revision: 'b' } }])
  })

  it('takes a density only from whoever may enter it', async () => {
    await signedIn()
    serve({ 'GET /api/densities': [] })
    const panel = mountInKit(DensityPanel, { test: test('melt-density') })
    await settled()
    expect(shown()).toContain('The register is empty.')
    expect(shown()).toContain('A reviewer who did not run this test')
    expect(() => button('Enter density')).toThrow()
    panel.unmount()
    await signedIn('approve-densities')
    const sent = serve({ 'GET /api/densities': [], 'POST /api/tests/31/density': {} })
    mountInKit(DensityPanel, { test: test('melt-density') })
    await fill('Formulation', 'PP 12')
    await fill('Revision', 'c')
    await submit()
    expect(changes(sent).map((each) => each.to)).toEqual(['POST /api/tests/31/density'])
  })

  it('is no business of other tests', () => {
    const sent = serve({})
    mountInKit(DensityPanel, { test: test('iso-37') })
    expect(shown()).toBe('')
    expect(sent).toEqual([])
  })
})

describe('photographs of a specimen', () => {
  const PHOTO = {
    id: 3,
    sha256: 'abc',
    shows: 'the break',
    subject: 'W1 left leg',
    in_report: false,
  }
  const strip = (released = false) =>
    mountInKit(PhotoStrip, { specimenId: 9, label: 'W1', released })

  it('go into the report and out of it; out of it only with a reason once it was tested', async () => {
    const sent = serve({
      'GET /api/specimens/9/photographs': [{ ...PHOTO, in_report: true }],
      'GET /api/specimens/9/photograph-subjects': [],
      'PUT /api/photographs/3': ({ body }: { body: unknown }) =>
        (body as { reason: string }).reason ? [] : new Refused('Give a reason.', 'needs-reason'),
    })
    strip()
    await settled()
    expect(shown()).toContain('Photographs of W1: 1')
    await press('in the report')
    const reason = document.querySelector<HTMLInputElement>('.leaf input')!
    reason.value = 'the client requested'
    reason.dispatchEvent(new Event('input', { bubbles: true }))
    await settled()
    await submit()
    expect(changes(sent).map((each) => each.body)).toEqual([
      { shows: 'the break', subject: 'W1 left leg', in_report: false, reason: '' },
      {
        shows: 'the break',
        subject: 'W1 left leg',
        in_report: false,
        reason: 'the client requested',
      },
    ])
  })

  it('are sent with their caption, which is then empty again', async () => {
    const sent = serve({
      'GET /api/specimens/9/photographs': [],
      'GET /api/specimens/9/photograph-subjects': [],
      'POST /api/specimens/9/photographs': [],
    })
    const photos = strip()
    await settled()
    await fill('Caption', 'after the run')
    part(photos, 'FileButton').vm.$emit('chosen', [new File(['x'], 'a.jpg')])
    await settled()
    const form = changes(sent)[0]!.body as FormData
    expect([form.get('shows'), form.get('subject')]).toEqual(['after the run', ''])
    expect(field('Caption').value).toBe('')
  })

  it('of a released job can only be looked at', async () => {
    serve({ 'GET /api/specimens/9/photographs': [PHOTO] })
    strip(true)
    await settled()
    expect(document.querySelector('img')!.getAttribute('alt')).toBe('the break')
    for (const act of ['not in the report', 'Remove photograph', 'Add photograph'])
      expect(() => button(act), act).toThrow()
  })
})

vi.setConfig({ testTimeout: 20_000 })
