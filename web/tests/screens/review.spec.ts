import { describe, expect, it } from 'vitest'
import JudgePage from '@/judging/JudgePage.vue'
import { signedIn } from './desk'
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

const ROW = {
  property: 'tear_force',
  group: 'warp',
  direction: 'warp',
  title: 'Tear force',
  unit: 'N',
  limit_text: 'mean ≥ 25 N',
  verdict: 'meets',
  to_go: 0,
  rule: null,
  other_school_differs: false,
  compared: '27.1',
  summary: null,
  working: [],
  labels: ['W1', 'W2'],
}
const SPECIMENS = [
  { id: 1, label: 'W1', run_id: 11, value_text: '27.1', void: null, state: 'tested', spare: false },
  {
    id: 2,
    label: 'W2',
    run_id: 12,
    value_text: null,
    void: { title: 'Slipped', text: 'a leg slipped', by: 'Ines' },
    state: 'void',
    spare: false,
  },
  { id: 3, label: 'W3', run_id: null, value_text: null, void: null, state: 'ready', spare: true },
]
const TEST = { id: 31, title: 'Trouser tear', by_rounds: false, rows: [ROW], specimens: SPECIMENS }
const REPORT = {
  id: 5,
  number: 'R-0400',
  revision: 1,
  verdict: 'meets',
  released_at: '2026-11-02T08:00:00Z',
  released_by: 'Maren',
  withdrawn: '',
  reason: null,
}
const JOB = {
  id: 7,
  number: 'J-0400',
  client: 'Quay Awnings',
  product: 'Awning cloth',
  lot: 'A-1',
  revision: 9,
  released: false,
  reports: [],
  tests: [TEST],
}
const DRAFT = {
  number: 'R-0400',
  revision: 1,
  verdict: 'meets',
  content_sha256: 'aaa',
  corrects: null,
  changes: [],
  not_by_you: '',
  obstacles: [],
  tested_by: ['Ines'],
  to_confirm: 0,
  deviations: [],
  job: JOB,
}
const GET = 'GET /api/jobs/7/draft'

async function opened(draft: object, answers: object = {}) {
  const sent = serve({ [GET]: draft, ...answers })
  const page = mountInKit(JudgePage, { id: 7 })
  await settled()
  return { sent, page }
}

describe('a draft', () => {
  it('shows each property with its limit, its verdict and the specimens that were pulled', async () => {
    await signedIn()
    await opened(DRAFT)
    expect(shown()).toContain('J-0400 · Quay Awnings · lot A-1')
    expect(shown()).toContain('mean ≥ 25 N')
    expect(document.querySelectorAll('.specimens li')).toHaveLength(2)
    expect(document.querySelector('.specimens li.void')!.textContent).toContain('void, slipped')
    expect(shown()).toContain('DeviationsNone.')
  })

  it('is released by whoever may, with the password and the content that was seen', async () => {
    await signedIn('release')
    const { sent } = await opened(DRAFT, { 'POST /api/jobs/7/release': {} })
    expect(shown()).toContain('Tested by Ines. Released by you')
    expect(button('Release report').disabled).toBe(true)
    await fill('Your password', 'bench-demo')
    await submit()
    expect(changes(sent).map((each) => each.body)).toEqual([
      { password: 'bench-demo', revision: 9, content_sha256: 'aaa' },
    ])
    expect(field('Your password').value).toBe('')
  })

  it('says what the server refused, and takes the password once more', async () => {
    await signedIn('release')
    await opened(DRAFT, { 'POST /api/jobs/7/release': new Refused('The password is not right.') })
    await fill('Your password', 'wrong')
    await submit()
    expect(shown()).toContain('The password is not right.')
  })

  it('that changed meanwhile is looked at again before it can be signed', async () => {
    await signedIn('release')
    let content = 'aaa'
    const { sent } = await opened(DRAFT, {
      [GET]: () => ({ ...DRAFT, content_sha256: content }),
      'POST /api/jobs/7/release': () => {
        content = 'bbb'
        return new Refused('The draft has changed.')
      },
    })
    await fill('Your password', 'bench-demo')
    await submit()
    expect(shown()).toContain('The draft has changed since you opened it')
    expect(() => field('Your password')).toThrow()
    await press('Draft checked')
    await fill('Your password', 'bench-demo')
    await submit()
    expect(
      changes(sent).map((each) => (each.body as { content_sha256: string }).content_sha256),
    ).toEqual(['aaa', 'bbb'])
  })

  it('cannot be released while something stands in the way, or by whoever tested', async () => {
    await signedIn('release')
    const { page } = await opened({
      ...DRAFT,
      obstacles: ['W2 is not replaced'],
      verdict: 'not judged',
    })
    expect(shown()).toContain('W2 is not replaced')
    expect(() => field('Your password')).toThrow()
    page.unmount()
    await opened({ ...DRAFT, not_by_you: 'You tested W1' })
    expect(shown()).toContain('You tested W1.')
    expect(() => field('Your password')).toThrow()
  })

  it('is no business of a technician', async () => {
    await signedIn('test')
    await opened(DRAFT)
    expect(shown()).toContain('A reviewer or manager who did not test the sample')
    expect(() => field('Your password')).toThrow()
  })

  it('has its supervised tests confirmed in one act', async () => {
    await signedIn('release')
    const { sent } = await opened({ ...DRAFT, to_confirm: 2 }, { 'POST /api/jobs/7/confirm': {} })
    await press('Confirm supervised tests')
    expect(changes(sent).map((each) => each.to)).toEqual(['POST /api/jobs/7/confirm'])
  })
})

describe('a specimen that is looked at', () => {
  const RUN = {
    id: 11,
    by: 'Ines',
    started_at: '2026-11-02T08:00:00Z',
    curves: [],
    result: { marks: [], working: [{ value: 'tear_force', text: 'mean', gives: '27.1 N' }] },
  }

  it('has its run read once, and is put away by the same press', async () => {
    await signedIn()
    const { sent } = await opened(DRAFT, { 'GET /api/runs/11': RUN })
    await press('W1')
    expect(shown()).toContain('W1: Ines')
    expect(document.querySelector<HTMLAnchorElement>('.trace a')!.getAttribute('href')).toBe(
      '/api/runs/11/trace.csv',
    )
    await press('W1')
    expect(document.querySelector('.trace')).toBeNull()
    await press('W1')
    expect(sent.filter((each) => each.to === 'GET /api/runs/11')).toHaveLength(1)
  })

  it('opens its calculation', async () => {
    await signedIn()
    await opened(DRAFT, { 'GET /api/runs/11': RUN })
    await press('W1')
    await press('calculation')
    expect(shown()).toContain('27.1 N')
  })
})

describe('a released report', () => {
  const released = { ...DRAFT, job: { ...JOB, released: true, reports: [REPORT] } }

  it('gives its open formats, and the newest revision first', async () => {
    await signedIn()
    const old = { ...REPORT, id: 4, revision: 0 }
    await opened({ ...DRAFT, job: { ...JOB, released: true, reports: [old, REPORT] } })
    const titles = [...document.querySelectorAll('.report h3')].map((each) => each.textContent)
    expect(titles).toEqual(['R-0400 revision 1', 'R-0400 revision 0'])
    const links = [...document.querySelectorAll('.report')[0]!.querySelectorAll('a')].map((each) =>
      each.getAttribute('href'),
    )
    expect(links).toEqual([
      '/api/reports/5/client.pdf',
      '/api/reports/5.pdf',
      '/api/reports/5.json',
      '/api/reports/5/specimens.csv',
      '/api/reports/5.xlsx',
      '/api/reports/5/traces.csv',
      '/api/reports/5/package.zip',
    ])
    expect(() => button('Withdraw')).toThrow()
  })

  it('is corrected with a reason', async () => {
    await signedIn('release')
    const { sent } = await opened(released, { 'POST /api/jobs/7/correction': {} })
    await press('Open correction')
    const reason = document.querySelector<HTMLInputElement>('.leaf input')!
    reason.value = 'the lot was wrong'
    reason.dispatchEvent(new Event('input', { bubbles: true }))
    await settled()
    await submit()
    expect(changes(sent).map((each) => each.body)).toEqual([{ reason: 'the lot was wrong' }])
  })

  it('that was withdrawn says so in place of its verdict', async () => {
    await signedIn('release')
    const withdrawn = { ...REPORT, withdrawn: 'Withdrawn on 3 Nov: wrong sample' }
    await opened({ ...DRAFT, job: { ...JOB, released: true, reports: [withdrawn] } })
    expect(document.querySelector('.word')!.textContent).toBe('withdrawn')
    expect(shown()).toContain('wrong sample')
    expect(() => button('Withdraw')).toThrow()
  })
})
