import { computed, ref } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { MethodLine, SheetView } from '@/api/client'
import { useMarking } from '@/cutting/marking'
import PackFields from '@/jobs/PackFields.vue'
import RequestedTests from '@/jobs/RequestedTests.vue'
import { newlyRequested, requestedOf, requestOf, rowsOf } from '@/jobs/requested'
import SendPage from '@/jobs/SendPage.vue'
import StudyPage from '@/jobs/StudyPage.vue'
import { variantsOf } from '@/jobs/variants'
import VariantsField from '@/jobs/VariantsField.vue'
import MethodsPage from '@/methods/MethodsPage.vue'
import { changes, choose, press, Refused, serve, settled, shown } from '../serve'
import { mountInKit } from './kit'
import { signedIn } from './desk'

const property = (given: object = {}) => ({
  name: 'tear_force',
  title: 'Tear force',
  unit: 'N',
  statistic: 'mean',
  ...given,
})
const method = (id: string, given: object = {}) =>
  ({
    id,
    title: `Method ${id}`,
    purpose: 'how a cloth tears',
    family: 'Tear',
    forms: ['sheet'],
    directions: ['warp', 'weft'],
    properties: [property()],
    specimens_per_direction: 5,
    spares_per_direction: 1,
    by_document: false,
    is_cut: true,
    needed: [],
    optional: [],
    size_text: '200 x 50 mm',
    ...given,
  }) as unknown as MethodLine

beforeEach(async () => signedIn('receive'))
afterEach(() => void vi.useRealTimers())

describe('the limits that a counter asks for', () => {
  it('are one for each direction of the first property', () => {
    expect(rowsOf(method('tear')).map((row) => row.key)).toEqual([
      'tear_force warp',
      'tear_force weft',
    ])
  })

  it('are those of the class where there is one, and one without directions', () => {
    const fire = property({ name: 'class', title: 'Class', unit: '', statistic: 'class' })
    const burned = method('fire', { directions: [], properties: [property(), fire] })
    expect(rowsOf(burned)).toEqual([
      {
        key: 'class ',
        property: 'class',
        direction: '',
        label: 'Class',
        unit: '',
        statistic: 'class',
      },
    ])
    expect(rowsOf(method('none', { properties: [] }))).toEqual([])
  })

  it('leave the directions out of a test that comes by document', () => {
    expect(rowsOf(method('doc', { by_document: true })).map((row) => row.direction)).toEqual([''])
  })

  it('are sent where something is typed, and parameters where something is chosen', () => {
    const test = newlyRequested(method('tear'))
    test.limits['tear_force warp']!.first = '25'
    test.parameters = { plies: 2, evaluation: undefined }
    const sent = requestOf(test)
    expect(sent.parameters).toEqual({ plies: 2 })
    expect(sent.limits).toHaveLength(1)
    expect(sent.limits?.[0]).toMatchObject({ property: 'tear_force', direction: 'warp' })
  })

  it('of a product are taken as they stand', () => {
    const limits = [{ property: 'tear_force', direction: 'weft', criterion: { on: 'mean' } }]
    const stages = [{ atmosphere: 'chamber', least_minutes: 30 }]
    const product = { method: 'tear', parameters: { plies: 1 }, limits, state: 'wet', stages }
    const sent = requestOf(requestedOf(product as never, method('tear')))
    expect(sent).toEqual(product)
  })

  it('have a key of their own each, however often a test is added', () => {
    const keys = [1, 2, 3].map(() => newlyRequested(method('tear')).key)
    expect(new Set(keys).size).toBe(3)
  })
})

describe('several samples of one product', () => {
  const variant = (name: string, given: object = {}) => ({
    key: 1,
    name,
    lot: '',
    size: '',
    without: [] as number[],
    ...given,
  })

  it('are received by name, with their own lot and size, each with its tests', () => {
    const typed = [
      variant('red', { lot: ' R-1 ', size: '1,5' }),
      variant('blue', { without: [8] }),
      variant('  '),
    ]
    expect(variantsOf(typed, 'sheet', [7, 8])).toEqual([
      { name: 'red', lot: 'R-1', length_mm: 1.5, tests: [0, 1] },
      { name: 'blue', lot: null, tests: [0] },
    ])
    expect(variantsOf([variant('a', { size: '20' })], 'packs', [1])[0]).toMatchObject({ count: 20 })
    expect(variantsOf([variant('a', { size: '5' })], 'granules', [])[0]).toMatchObject({
      mass_g: 5,
    })
  })

  it('begin with two lines, and have an empty one below the last that says something', async () => {
    const variants = ref<object[]>([])
    const field = mountInKit(VariantsField, {
      form: 'sheet',
      requested: [newlyRequested(method('tear'))],
      variants: variants.value,
      reports: 'one',
      'onUpdate:variants': (next: object[]) => void field.setProps({ variants: next }),
    })
    await press('Several samples')
    expect(field.findAll('tbody tr')).toHaveLength(2)
    const last = field.findAll('input[aria-label="Sample 2"]')[0]!
    await last.setValue('blue')
    await settled()
    expect(field.findAll('tbody tr').length).toBeGreaterThanOrEqual(2)
    expect(field.text()).toContain('length, mm')
  })
})

describe('the tests at the counter', () => {
  const mounted = (tests: ReturnType<typeof newlyRequested>[], given: object = {}) =>
    mountInKit(RequestedTests, {
      form: 'sheet',
      methods: [method('tear'), method('melt', { forms: ['granules'] })],
      materials: [],
      tried: false,
      requested: tests,
      comparison: null,
      ...given,
    })

  it('offer what fits the form first, and the others with the reason', () => {
    const choice = mounted([], { form: 'granules' }).getComponent({ name: 'VAutocomplete' })
    const items = (choice.props() as { items: { title: string; props: { disabled: boolean } }[] })
      .items
    expect(items.map((each) => [each.title, each.props.disabled])).toEqual([
      ['Method melt, melt', false],
      ['Method tear, tear: only for sheet', true],
    ])
  })

  it('ask for at least one once something was tried', () => {
    expect(mounted([], { tried: true }).text()).toContain('Choose at least one test.')
    expect(mounted([]).text()).not.toContain('Choose at least one test.')
  })

  it('are added by choosing, and ask how results are compared', async () => {
    const tests: ReturnType<typeof newlyRequested>[] = []
    const pane = mounted(tests)
    await choose(pane, 'Test, by name or number', 'tear')
    await pane.setProps({ requested: [...tests] })
    expect(pane.text()).toContain('Method tear')
    expect(pane.text()).toContain('5 + 1 spare per direction, 200 x 50 mm')
    const choices = pane.findAllComponents({ name: 'VSelect' }) as unknown as {
      props(): { label?: string }
    }[]
    expect(choices.some((each) => each.props().label === 'Comparison with limits')).toBe(true)
  })
})

describe('a pack', () => {
  const pack = { long_mm: '', wide_mm: '', high_mm: '', gross_mass_kg: '', faces: '' }
  const fields = (given: object) => mountInKit(PackFields, { modelValue: { ...pack, ...given } })

  it('is drawn once its three sides are known, with the faces one sees', () => {
    expect(fields({ long_mm: '400', wide_mm: '300' }).find('svg[role="img"]').exists()).toBe(false)
    const drawn = fields({ long_mm: '400', wide_mm: '300', high_mm: '250' })
    const faces = drawn.findAll('svg[role="img"] text').map((each) => each.text())
    expect(faces).toHaveLength(3)
    expect(faces).toContain('1')
  })

  it.each(['0', '-4', 'long'])('says what is wrong with a side of %s', (typed) => {
    expect(fields({ long_mm: typed }).text()).toContain('enter a value above 0')
  })
})

describe('the required sample size', () => {
  const answer = (given: object = {}) => ({
    length_needed_mm: 1234.5,
    length_bound_mm: 1100.2,
    ask_for_mm: 1250,
    used_percent: 61,
    fits: true,
    relaxation: '',
    fitting: [],
    pieces: [],
    usage: [],
    sheet: null,
    ...given,
  })

  async function page(answered: unknown) {
    vi.useFakeTimers({ shouldAdvanceTime: true })
    const sent = serve({
      'GET /api/methods': [method('tear'), method('strip')],
      'POST /api/required-sample-size': answered,
    })
    const mounted = mountInKit(SendPage)
    await settled()
    await choose(mounted, 'Test, by name or number', 'tear')
    await vi.advanceTimersByTimeAsync(500)
    await settled()
    return { mounted, sent }
  }

  it('is asked for with the width and the counts that stand there', async () => {
    const { sent } = await page(answer())
    const [asked] = changes(sent)
    expect(asked?.body).toMatchObject({
      width_mm: 1500,
      tests: [{ method: 'tear', specimens_wanted: 5, parameters: {} }],
    })
    expect(shown()).toContain('1.25 m')
  })

  it('says in words why nothing fits', async () => {
    await page(
      answer({
        fits: false,
        ask_for_mm: null,
        length_needed_mm: null,
        relaxation: 'The sheet is 30 mm too narrow',
      }),
    )
    expect(shown()).toContain('The sheet is 30 mm too narrow')
  })

  it('says what the server refused', async () => {
    await page(new Refused('Width is out of range. Enter 10 to 10000 mm'))
    expect(shown()).toContain('Width is out of range')
  })
})

describe('the index of methods', () => {
  const listed = () => {
    serve({
      'GET /api/methods': [
        method('iso-13937-2', { title: 'Trouser tear', family: 'Tear' }),
        method('iso-527', { title: 'Tension of bars', family: 'Tension', purpose: 'plastics' }),
        method('astm-e8', { title: 'Tension of metal', family: 'Tension', purpose: 'metals' }),
      ],
    })
    return mountInKit(MethodsPage)
  }
  const titles = () => [...document.querySelectorAll('li .title')].map((each) => each.textContent)

  it('is by family', async () => {
    const page = listed()
    await settled()
    expect(page.findAll('h2').map((each) => each.text())).toEqual(['Tear', 'Tension'])
    expect(page.get('a[href="/methods/iso-527"]').text()).toContain('Tension of bars')
  })

  it.each([
    ['tension', ['Tension of bars', 'Tension of metal']],
    ['tension plastics', ['Tension of bars']],
    ['iso-13937', ['Trouser tear']],
    ['METALS', ['Tension of metal']],
  ])('finds %s by all words, in number, title and purpose', async (sought, found) => {
    const page = listed()
    await settled()
    await page.get('input').setValue(sought)
    expect(titles()).toEqual(found)
  })

  it('says that nothing was found, and shows all again', async () => {
    const page = listed()
    await settled()
    await page.get('input').setValue('glass')
    expect(shown()).toContain('No method matches “glass”.')
    await press('Show all')
    expect(titles()).toHaveLength(3)
  })
})

describe('a study', () => {
  const rule = {
    low: 0,
    high: 30,
    step: 10,
    forbidden: { start: 0, end: 20 },
    second_forbidden: null,
    guarded: [],
    limit: 20,
    second_limit: null,
    values: [24, 25],
    voids: [],
    mean: 24.5,
    half_width: null,
    unit: 'N',
    limit_text: 'mean ≥ 20 N',
  }
  const sample = (id: number, number: string, given: object = {}) => ({
    variant: number,
    job: {
      id,
      number,
      tested: 20,
      required: 20,
      verdict: 'meets',
      next_screen: 'judge',
      next_text: 'Review',
      ...given,
    },
  })
  const compared = (job_id: number, name: string, given: object = {}) => ({
    job_id,
    name,
    rank: 1,
    mean_text: '24.5',
    text: 'baseline',
    rule,
    ...given,
  })
  const view = (given: object = {}) => ({
    title: 'Three reds',
    client: 'Quay Awnings',
    reports: 'one',
    to_release: [],
    against: 1,
    samples: [sample(1, 'J-1'), sample(2, 'J-2', { tested: 4, verdict: 'not judged' })],
    comparisons: [],
    ...given,
  })
  const row = {
    title: 'Tear force',
    group: 'warp',
    test: 'Trouser tear',
    unit: 'N',
    limit_text: 'mean ≥ 20 N',
    samples: [compared(1, 'red'), compared(2, 'blue', { rank: null, mean_text: '', text: 'open' })],
  }

  async function page(given: object = {}) {
    const sent = serve({ 'GET /api/studies/5': view(given) })
    const mounted = mountInKit(StudyPage, { id: 5 })
    await settled()
    return { mounted, sent }
  }

  it('shows how far each sample is, and leads to what is next', async () => {
    const { mounted } = await page()
    expect(shown()).toContain('Comparison of 2 samples')
    expect(shown()).toContain('4/20')
    expect(shown()).toContain('The results of the samples appear here.')
    expect(mounted.findAll('.samples a.small').map((each) => each.attributes('href'))).toEqual([
      '/judge/1',
      '/judge/2',
    ])
  })

  it('has its report once all samples are released, and counts those to go', async () => {
    const { mounted } = await page()
    expect(mounted.get('a[href="/api/studies/5/report.pdf"]').text()).toBe('Study report')
    await page({ to_release: [2] })
    expect(shown()).toContain('Study report after all are released: 1 to go')
  })

  it('has no common report where each sample has its own', async () => {
    const { mounted } = await page({ reports: 'each' })
    expect(mounted.find('a[href="/api/studies/5/report.pdf"]').exists()).toBe(false)
    expect(mounted.find('a[href="/api/studies/5/table.xlsx"]').exists()).toBe(true)
  })

  it('ranks the samples of a property, with a dash for what is open', async () => {
    const { mounted } = await page({ comparisons: [row] })
    expect(mounted.get('h2').text().replace(/\s+/g, ' ')).toContain('Tear force, warp')
    const rows = mounted.findAll('tbody tr').slice(0, 2)
    expect(rows.map((each) => each.get('.place').text())).toEqual(['1', '–'])
    expect(rows.map((each) => each.get('.figure').text())).toEqual(['24.5', '–'])
    expect(rows[0]!.classes()).toContain('base')
  })

  it('takes another sample as the baseline', async () => {
    const { sent } = await page({ comparisons: [row] })
    await press('blue')
    expect(sent.at(-1)?.query).toEqual({ against: '2' })
  })
})

describe('areas that nothing is cut from', () => {
  const area = (reason: string, x: number) => ({ reason, corners: [{ x, y: 0 }] })
  const sheet = computed(
    () =>
      ({
        job_id: 3,
        revision: 7,
        avoided: [area('crease', 10), area('stain', 20)],
      }) as unknown as SheetView,
  )
  const marking = (works = true) =>
    useMarking(sheet, async (work) => {
      await work()
      return works
    })

  it('are added to those that are there, with their reason', async () => {
    const sent = serve({ 'PUT /api/jobs/3/sheet/areas': {} })
    const { tool, reason, mark } = marking()
    tool.value = 'band'
    reason.value = '  fold  '
    await mark([{ x: 1, y: 2 }])
    expect(sent.at(-1)?.body).toEqual({
      revision: 7,
      areas: [
        { reason: 'crease', corners: [[10, 0]] },
        { reason: 'stain', corners: [[20, 0]] },
        { reason: 'fold', corners: [[1, 2]] },
      ],
    })
    expect(tool.value).toBeNull()
  })

  it('without a reason are marked, and keep the tool where they were refused', async () => {
    const sent = serve({ 'PUT /api/jobs/3/sheet/areas': {} })
    const { tool, reason, mark } = marking(false)
    tool.value = 'band'
    reason.value = ' '
    await mark([{ x: 1, y: 2 }])
    const areas = (sent.at(-1)?.body as { areas: { reason: string }[] }).areas
    expect(areas.at(-1)?.reason).toBe('marked')
    expect(tool.value).toBe('band')
  })

  it('are taken away one by one', async () => {
    const sent = serve({ 'PUT /api/jobs/3/sheet/areas': {} })
    await marking().unmark(0)
    expect(sent.at(-1)?.body).toMatchObject({ areas: [{ reason: 'stain' }] })
  })
})
