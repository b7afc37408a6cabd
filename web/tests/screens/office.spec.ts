import { describe, expect, it } from 'vitest'
import { useSession } from '@/app/session'
import AttachmentsPane from '@/office/AttachmentsPane.vue'
import ClientPane from '@/office/ClientPane.vue'
import NonconformityForm from '@/office/NonconformityForm.vue'
import NonconformityPane from '@/office/NonconformityPane.vue'
import { changes, fill, press, Refused, serve, settled, shown, submit } from '../serve'
import { mountInKit } from './kit'

const PAGE = {
  id: 4,
  number: 'NC-0004',
  kind: 'nonconformity',
  title: 'T-1: check failed',
  owner: null,
  owner_id: null,
  due_at: null,
  opened_at: '2026-12-01T09:00:00Z',
  closed_at: null,
  overdue: false,
  source: 'check',
  job_id: null,
  job_number: null,
  serial: 'T-1',
  description: '',
  cause: '',
  action: '',
  opened_by: 'Ines',
  closed_by: null,
  closing: null,
  affected: [
    {
      job_id: 7,
      number: 'J-0407',
      product: 'Cloth',
      client: 'Quay',
      method: 'Trouser tear',
      labels: 'W1, W2',
      released: true,
    },
  ],
  revision: 3,
  may_change: true,
  may_close: true,
}
const READ = 'GET /api/nonconformities/4'
const CLOSE = 'POST /api/nonconformities/4/close'
const CHANGE = 'PUT /api/nonconformities/4'

describe('a nonconformity', () => {
  it('names what it affects, and is closed with a word on how it was checked', async () => {
    const sent = serve({ [READ]: PAGE, [CLOSE]: new Refused('The cause is missing.') })
    mountInKit(NonconformityPane, { id: 4 })
    await settled()
    expect(shown()).toContain('1 Dec 2026, Ines, by a failed check')
    expect(shown()).toContain('W1, W2report released')
    await press('Close')
    await fill('Reason', 'read again')
    await submit('.v-dialog form')
    expect(changes(sent)[0]).toMatchObject({
      to: CLOSE,
      body: { remark: 'read again', revision: 3 },
    })
    expect(shown()).toContain('The cause is missing.')
  })

  it('is changed by cause and action, from the revision that was seen', async () => {
    const sent = serve({ [READ]: PAGE, [CHANGE]: PAGE, 'GET /api/people': [] })
    mountInKit(NonconformityPane, { id: 4 })
    await settled()
    await press('Enter cause and action')
    await fill('Cause', 'dirt')
    await fill('Action', 'cleaned')
    await submit()
    expect(changes(sent)[0]).toMatchObject({
      to: CHANGE,
      body: { cause: 'dirt', action: 'cleaned', revision: 3, due_at: null },
    })
    expect(shown()).toContain('Affected results')
  })

  it('is opened for the job that it came from, and not without a title', async () => {
    const sent = serve({ 'GET /api/people': [], 'POST /api/nonconformities': PAGE })
    const form = mountInKit(NonconformityForm, { from: null, jobId: 7 })
    await submit()
    expect(changes(sent)).toEqual([])
    await fill('What went wrong', 'wrong address')
    await submit()
    expect(changes(sent)[0]!.body).toMatchObject({
      kind: 'nonconformity',
      title: 'wrong address',
      job_id: 7,
      serial: null,
    })
    expect(form.emitted('saved')).toEqual([[4]])
  })
})

describe('a client', () => {
  const CLIENT = {
    name: 'Quay',
    contacts: [{ name: 'A. Buyer', role: '', email: 'a@quay.example', phone: '' }],
    addresses: [],
    paper: 'A4',
    collects_reports: true,
    remark: '',
    revision: 1,
    orders: [
      {
        number: 'PO 7',
        is_done: false,
        jobs: [
          {
            id: 7,
            number: 'J-0407',
            product: 'Cloth',
            lot: 'a',
            reference: 'bale 3',
            due_at: '2026-12-04T09:00:00Z',
            state: 'open',
          },
        ],
      },
    ],
    jobs: [],
    more_jobs: 2,
    products: 0,
  }

  it('stands with its contacts and orders, and is kept from the revision seen', async () => {
    const sent = serve({
      'GET /api/session': { may: ['receive'], writing: {} },
      'GET /api/client': CLIENT,
      'PUT /api/client': CLIENT,
    })
    await useSession().look()
    mountInKit(ClientPane, { name: 'Quay' })
    await settled()
    expect(shown()).toContain('Order PO 7 open')
    expect(shown()).toContain('J-0407Clothlot abale 34 Dec 2026in the lab')
    expect(shown()).toContain('2 older jobs are not shown.')
    await press('Change record')
    await press('Add contact')
    await fill('Remark', 'calls first')
    await submit()
    expect(changes(sent)[0]!.body).toMatchObject({
      name: 'Quay',
      contacts: [{ name: 'A. Buyer', gets_reports: false }],
      remark: 'calls first',
      seen: 1,
    })
  })
})

describe('the files of a job', () => {
  it('are shown with who attached them, and removed with a reason', async () => {
    const file = {
      id: 3,
      name: 'order.pdf',
      media_type: 'application/pdf',
      size: 41_200,
      sha256: 'a',
      at: '2026-12-01T09:00:00Z',
      by: 'Ines',
    }
    let files = [file]
    const sent = serve({
      'GET /api/session': { may: ['receive'], writing: {} },
      'GET /api/attachments': () => files,
      'DELETE /api/attachments/3': () => (files = []),
    })
    await useSession().look()
    mountInKit(AttachmentsPane, { subject: 'job', of: 7 })
    await settled()
    expect(sent.find((each) => each.to === 'GET /api/attachments')?.query).toEqual({
      subject: 'job',
      key: '7',
    })
    expect(shown()).toContain('order.pdf42 kB · Ines, 1 Dec 2026')
    await press('remove')
    await fill('Reason', 'wrong job')
    await submit('.v-dialog form')
    expect(changes(sent)[0]).toMatchObject({
      to: 'DELETE /api/attachments/3',
      query: { reason: 'wrong job' },
    })
    expect(shown()).toContain('No file yet')
  })
})
