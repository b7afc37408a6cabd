import { expect, it } from 'vitest'
import HistoryList from '@/jobs/HistoryList.vue'
import { mountInKit } from './kit'

it('groups the events of a job by the day of the laboratory', () => {
  const events = [
    { at: '2026-11-20T23:30:00Z', text: 'Ines accepted W1' },
    { at: '2026-11-20T15:00:00Z', text: 'Ines cut 12 specimens' },
    { at: '2026-11-20T09:00:00Z', text: 'Ines received the sample' },
  ]
  const list = mountInKit(HistoryList, { events })
  expect(list.findAll('h4').map((day) => day.text())).toEqual(['21 Nov 2026', '20 Nov 2026'])
  expect(list.findAll('ol').map((day) => day.findAll('li').length)).toEqual([1, 2])
  expect(list.get('li').text()).toBe('00:30Ines accepted W1')
})
