import { describe, expect, it } from 'vitest'
import { computed, ref } from 'vue'
import { useHand } from '@/bench/hand'
import ReadyList from '@/bench/ReadyList.vue'
import { mountInKit } from './kit'

const specimen = (id: number, state: string, called = true) => ({ id, state, called })
type Job = Parameters<typeof useHand>[0]

function hand(...tests: object[]) {
  return useHand({ data: ref({ tests }) } as unknown as Job, null)
}

describe('which specimen is in hand', () => {
  it('is the most urgent of the first test with something to do', () => {
    const done = { id: 1, at_frame: true, to_go: 0, specimens: [specimen(1, 'tested')] }
    const open = {
      id: 2,
      at_frame: true,
      to_go: 3,
      specimens: [specimen(5, 'ready'), specimen(6, 'to-look-at'), specimen(7, 'running', false)],
    }
    const { test, current, isNext } = hand(done, open)
    expect(test.value?.id).toBe(2)
    expect(current.value?.id).toBe(6)
    expect(isNext.value).toBe(true)
  })

  it('is the one that was picked, which need not be next', () => {
    const open = {
      id: 2,
      at_frame: true,
      to_go: 2,
      specimens: [specimen(5, 'ready'), specimen(6, 'tested')],
    }
    const { current, isNext, picked } = hand(open)
    picked.value = 6
    expect(current.value?.id).toBe(6)
    expect(isNext.value).toBe(false)
  })

  it('leaves out tests that the bench does not run', () => {
    const filed = { id: 3, at_frame: false, to_go: 2, specimens: [specimen(9, 'ready')] }
    expect(computed(() => hand(filed).test.value).value).toBeNull()
  })
})

describe('the ready list', () => {
  const check = { title: 'A leg in each jaw', reason: '', reads: null, hold: false, text: '' }

  it('lets only what a person confirmed be taken back', async () => {
    const checks = [
      { ...check, code: 'legs', ticked: true, event: 4 },
      { ...check, code: 'zeroed', reads: 'zeroed', ticked: true, event: null },
    ]
    const list = mountInKit(ReadyList, { checks, busy: false })
    expect(list.findAll('button')).toHaveLength(1)
    await list.get('button').trigger('click')
    expect(list.emitted('takeBack')).toEqual([[4]])
  })
})
