import { describe, expect, it } from 'vitest'
import { pressed, shownOrder } from '@/jobs/jobOrder'
import JobsTable from '@/jobs/JobsTable.vue'
import { mountInKit } from './kit'

const none = { sort: null, descending: false }
const line = {
  id: 4,
  number: 'J-0404',
  product: 'Awning cloth',
  client: 'Quay Awnings',
  lot: 'B-2',
  variant: '',
  study_id: null,
  priority: 0,
  trouble: null,
  stage: 'tested',
  tested: 10,
  requested: 10,
  verdict: 'does not meet',
  due_at: '2026-11-20T12:00:00Z',
  next_text: 'Review and release',
  next_screen: 'judge',
  next_code: 'judge',
}

describe('the order of the jobs', () => {
  it('is by due date for open jobs, and the newest first for released ones', () => {
    expect(shownOrder(none, false)).toEqual({ sort: 'due', descending: false })
    expect(shownOrder(none, true)).toEqual({ sort: 'number', descending: true })
  })

  it('is by the column that is pressed, and the other way at the next press', () => {
    const once = pressed(none, 'product', false)
    expect(once).toEqual({ sort: 'product', descending: false })
    expect(pressed(once, 'product', false)).toEqual({ sort: 'product', descending: true })
    expect(pressed(none, 'due', false)).toEqual({ sort: 'due', descending: true })
  })

  it('is told to a screen reader, and asked for by the head of a column', async () => {
    const now = Date.parse('2026-11-21T12:00:00Z')
    const table = mountInKit(JobsTable, { order: none, lines: [line], isReleased: false, now })
    const heads = table.findAll('th').map((head) => head.attributes('aria-sort'))
    expect(heads.filter(Boolean)).toEqual(['none', 'none', 'ascending'])
    await table.get('th[aria-sort="ascending"] button').trigger('click')
    expect(table.emitted('update:order')).toEqual([[{ sort: 'due', descending: true }]])
  })

  it('leaves a row with its verdict, its next step, and how late it is', async () => {
    const now = Date.parse('2026-11-21T12:00:00Z')
    const table = mountInKit(JobsTable, { order: none, lines: [line], isReleased: false, now })
    expect(table.get('.late').text()).toBe('1 day late')
    expect(table.get('.verdict').text()).toBe('fail')
    await table.get('tr.line').trigger('click')
    expect(table.emitted('open')).toEqual([[4, 'judge']])
  })
})
