import { reactive } from 'vue'
import { describe, expect, it } from 'vitest'
import ProductPane from '@/products/ProductPane.vue'
import ProductTestFields from '@/products/ProductTestFields.vue'
import { newTest } from '@/products/products'
import { changes, fill, press, Refused, serve, settled, shown, submit } from '../serve'
import { mountInKit } from './kit'

const REVISION = {
  id: 4,
  revision: 2,
  state: 'draft',
  by: 'Ines',
  at: '2026-12-01T09:00:00Z',
  approved_by: null,
  approved_at: null,
  valid_from: null,
  retired_by: null,
  retired_at: null,
  retired_why: null,
}
const IN_FORCE = {
  ...REVISION,
  id: 3,
  revision: 1,
  state: 'in-force',
  approved_by: 'Maren',
  approved_at: '2026-11-01T09:00:00Z',
  valid_from: '2026-11-01T09:00:00Z',
}
const PAGE = {
  product: {
    id: 4,
    client: 'Quay Awnings',
    name: 'Harbour cloth',
    revision: 2,
    specification: { material: 'woven', form: 'sheet', tests: [] },
    gone: [],
    by: 'Ines',
    at: '2026-12-01T09:00:00Z',
  },
  state: 'draft',
  lines: [{ name: 'material', text: 'woven' }],
  tests: [
    {
      method: 'iso-13937-2',
      title: 'Trouser tear',
      parameters: [{ name: 'specimens wanted', text: '4' }],
      limits: [{ name: 'tear force, warp', text: 'mean ≥ 28 N' }],
    },
  ],
  revisions: [REVISION, IN_FORCE],
  newest: 2,
  newest_id: 4,
  may_approve: true,
  approval: null,
  may_retire: false,
  may_draft: true,
}
const READ = 'GET /api/products/4'
const APPROVE = 'POST /api/products/4/approve'
const RETIRE = 'POST /api/products/4/retire'
const DIFFERENCES = 'GET /api/products/4/differences'
const LINE = 'tear force, warp: mean ≥ 25 N becomes mean ≥ 28 N'

async function opened(page: object, more: Record<string, unknown> = {}) {
  const sent = serve({ [READ]: page, [DIFFERENCES]: [LINE], ...more })
  const pane = mountInKit(ProductPane, { id: 4 })
  await settled()
  return { sent, pane }
}

describe('the conditioning of a test of a product', () => {
  const method = { id: 'tear', title: 'Tear', needed: [], optional: [], properties: [] }
  const atmospheres = { chamber: 'Chamber', 'textile-20-65': 'Textile room' }

  const stages = [{ atmosphere: 'textile-20-65', least_minutes: 1440, most_wait_minutes: null }]

  async function fields(given: object = {}) {
    serve({ 'GET /api/methods/tear': { ...method, atmosphere: '20 °C', atmospheres, stages } })
    const row = reactive({ ...newTest({ ...method, directions: [] } as never), ...given })
    const mounted = mountInKit(ProductTestFields, {
      modelValue: row,
      'onUpdate:modelValue': (now: object) => Object.assign(row, now),
    })
    await settled()
    return { row, mounted }
  }

  it('is that of its method until stages are set, and again when they are given up', async () => {
    const { row, mounted } = await fields()
    expect(mounted.text()).toContain('As the method requires.')
    await press('change stages')
    expect(row.stages).toEqual([{ atmosphere: 'textile-20-65', least: '1440', wait: '', why: '' }])
    await press('Add stage')
    expect(row.stages).toHaveLength(2)
    await mounted.get('.stage button').trigger('click')
    expect(row.stages).toHaveLength(1)
    await press('use the stages of the method')
    expect(row.stages).toBeNull()
  })

  it('is shown at once where it is not that of the method', async () => {
    const { mounted } = await fields({ state: 'wet' })
    const opened = mounted.findAll('details').filter((each) => each.attributes('open') === '')
    expect(opened).toHaveLength(1)
  })
})

describe('a product', () => {
  it('shows a draft beside the revision in force, and is approved with its day', async () => {
    const { sent, pane } = await opened(PAGE, { [APPROVE]: PAGE })
    expect(shown()).toContain('Quay Awnings · revision 2 · draft')
    expect(shown()).toContain('Tear force, warpmean ≥ 28 N')
    expect(shown()).toContain(LINE)
    expect(sent.find((each) => each.to === DIFFERENCES)?.query).toEqual({ before: '3' })
    expect(pane.emitted('shown')).toEqual([['Quay Awnings Harbour cloth']])
    await press('Approve revision 2')
    await submit('.v-dialog form')
    expect(changes(sent)).toEqual([{ to: APPROVE, query: {}, body: { valid_from: null } }])
  })

  it('says why this person cannot approve it', async () => {
    await opened({ ...PAGE, may_approve: false, approval: 'You worked on this draft.' })
    expect(shown()).toContain('You worked on this draft.')
    expect(shown()).not.toContain('Approve revision')
  })

  it('is retired with a reason, and a refusal is said', async () => {
    const current = { ...PAGE, state: 'in-force', may_approve: false, may_retire: true }
    const refusal = new Refused('It has no revision in force.')
    const { sent } = await opened(current, { [RETIRE]: refusal })
    await press('Retire product')
    await fill('Reason', 'no more of it')
    await submit('.v-dialog form')
    await settled()
    expect(changes(sent)[0]).toMatchObject({ to: RETIRE, body: { reason: 'no more of it' } })
    expect(shown()).toContain('It has no revision in force.')
  })

  it('leads from an older revision to the draft that waits', async () => {
    const older = {
      ...PAGE,
      product: { ...PAGE.product, id: 4, revision: 1 },
      revisions: [
        { ...REVISION, id: 5 },
        { ...IN_FORCE, id: 4 },
      ],
      state: 'in-force',
      may_approve: false,
    }
    const { pane } = await opened(older)
    expect(shown()).toContain('A newer draft waits for approval: revision 2')
    await press('revision 2')
    expect(pane.emitted('show')).toEqual([[5]])
  })
})
