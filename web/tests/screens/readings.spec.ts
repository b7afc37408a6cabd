import { beforeEach, describe, expect, it } from 'vitest'
import ReadingsPage from '@/bench/ReadingsPage.vue'
import { useUndo } from '@/ui/undo'
import { changes, press, Refused, serve, settled, shown } from '../serve'
import { signedIn } from './desk'
import { mountInKit } from './kit'

const specimen = (id: number, label: string, state: string) => ({
  id,
  label,
  code: `J-0402-${label}`,
  state,
  called: true,
  run_id: state === 'ready' ? null : id,
  void: null,
  value_text: '24.1',
  flags: [],
  direction: 'warp',
  group: '',
})
const METHOD = {
  id: 'iso-13937-2',
  cautions: ['Fingers away from the jaws.'],
  by_document: false,
  readings: [],
  parameters: [],
  observations: [],
  parameters_schema: { properties: {} },
  readings_schema: { properties: {}, required: ['trace'] },
}
const job = (...specimens: object[]) => ({
  id: 2,
  number: 'J-0402',
  product: 'Awning cloth',
  released: false,
  next_screen: 'readings',
  next_text: 'Import readings',
  events: [],
  tests: [
    {
      id: 9,
      job_id: 2,
      method: 'iso-13937-2',
      title: 'Trouser tear',
      specimens,
      rows: [],
      flags: [],
      one_more: {},
      to_go: 3,
      required: 5,
      at_frame: true,
      by_rounds: false,
      held: null,
      set_up: [],
      set_up_missing: [],
      parameters: {},
      problem: null,
    },
  ],
})

beforeEach(async () => {
  await signedIn('test')
  useUndo().dismiss()
})

async function page(answers: Record<string, unknown> = {}) {
  const sent = serve({
    'GET /api/jobs/2': job(
      specimen(1, 'W1', 'to-look-at'),
      specimen(2, 'W2', 'to-look-at'),
      specimen(3, 'W3', 'tested'),
      specimen(4, 'W4', 'ready'),
    ),
    'GET /api/methods/iso-13937-2': METHOD,
    'GET /api/instruments': [],
    'GET /api/mappings': [],
    'POST /api/tests/9/accept': {},
    'POST /api/tests/9/accept/undo': {},
    ...answers,
  })
  mountInKit(ReadingsPage, { id: 2 })
  await settled()
  return sent
}

describe('readings that were imported', () => {
  it('are accepted together, and wait again when that is undone', async () => {
    const sent = await page()
    await press('Accept all 2')
    const { offer, undo } = useUndo()
    expect(offer.value?.text).toBe('W1, W2 accepted')
    await undo()
    await settled()
    expect(changes(sent).map((each) => each.to)).toEqual([
      'POST /api/tests/9/accept',
      'POST /api/tests/9/accept/undo',
    ])
  })

  it('offer no way back from what was refused', async () => {
    await page({ 'POST /api/tests/9/accept': new Refused('The report is released.') })
    await press('Accept all 2')
    expect(useUndo().offer.value).toBeNull()
    expect(shown()).toContain('The report is released.')
  })
})
