import { describe, expect, it } from 'vitest'
import SetUpChecklist from '@/today/SetUpChecklist.vue'
import { mountInKit } from './kit'

const whole = {
  people: [
    { id: 1, role: 'technician', active: true },
    { id: 2, role: 'reviewer', active: true },
  ],
  conditioning: { enclosures: [{ id: 1 }] },
  instruments: [{ serial: 'LC-1' }],
  counter: { products: 1, last_job_id: 3 },
}
const shown = (answers: Record<string, unknown>) => mountInKit(SetUpChecklist, {}, { answers })

describe('the list of a new laboratory', () => {
  it('ticks what is there, and leads to what is missing', () => {
    const counter = { products: 0, last_job_id: null }
    const list = shown({ ...whole, people: [{ id: 1 }], counter })
    const done = list.findAll('li').map((line) => line.classes().includes('done'))
    expect(done).toEqual([false, true, true, false, false])
    expect(list.get('a').attributes('href')).toBe('/people')
    expect(list.findAll('.tick')).toHaveLength(2)
  })

  it('asks for a technician and a reviewer, not for two people of one kind', () => {
    const people = [1, 2].map((id) => ({ id, role: 'technician', active: true }))
    const list = shown({ ...whole, people })
    expect(list.findAll('li').map((line) => line.classes().includes('done'))[0]).toBe(false)
  })

  it('is gone once everything is there, and says nothing before that is known', () => {
    expect(shown(whole).find('section').exists()).toBe(false)
    expect(shown({ people: [] }).find('section').exists()).toBe(false)
  })
})
