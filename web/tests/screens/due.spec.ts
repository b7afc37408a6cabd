import { describe, expect, it } from 'vitest'
import DuePage from '@/office/DuePage.vue'
import { Refused, serve, settled, shown } from '../serve'
import { mountInKit } from './kit'

const line = (given: object) => ({
  kind: 'calibration',
  title: 'Tensile frame, T-1',
  text: 'calibration, certificate C-5',
  due_at: '2026-12-24T12:00:00Z',
  overdue: false,
  serial: 'T-1',
  person_id: null,
  job_id: null,
  ...given,
})

async function page(lines: object[]) {
  serve({ 'GET /api/due': { lines, overdue: 0 } })
  const mounted = mountInKit(DuePage)
  await settled()
  return mounted
}

describe('what is due', () => {
  it('leads each line to its place', async () => {
    await page([
      line({}),
      line({ kind: 'authorisation', title: 'Ines', serial: null, person_id: 4 }),
      line({ kind: 'remainder', title: 'J-0402', serial: null, job_id: 7 }),
      line({ kind: 'nonconformity', title: 'NC-0003', serial: null, nonconformity_id: 3 }),
    ])
    const places = [...document.querySelectorAll('tbody a')].map((each) =>
      each.getAttribute('href'),
    )
    expect(places).toEqual(['/instruments', '/people', '/jobs/7', '/nonconformities?id=3'])
    expect(shown()).toContain('24 Dec 2026')
    expect(document.querySelector('.overdue')).toBeNull()
  })

  it('marks what is overdue, and what is due by its count', async () => {
    await page([line({ kind: 'consumable', due_at: null, overdue: true, serial: null })])
    expect(shown()).toContain('now overdue')
    expect(document.querySelector('td.overdue')).not.toBeNull()
  })

  it('says so where nothing is due, and why it cannot be read', async () => {
    const empty = await page([])
    expect(shown()).toContain('Nothing is due')
    empty.unmount()
    serve({ 'GET /api/due': new Refused('The database does not answer.') })
    mountInKit(DuePage)
    await settled()
    expect(shown()).toContain('The database does not answer.')
  })
})
