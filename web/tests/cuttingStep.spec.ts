import { describe, expect, it, vi } from 'vitest'
import { computed } from 'vue'
import type { Router } from 'vue-router'
import type { BrokenRule, SheetView } from '@/api/client'
import { client } from '@/api/client'
import { useCuttingStep } from '@/cutting/cuttingStep'

const placed = { x_mm: 10, locked: false }
const unplaced = { x_mm: null, locked: false }

function stepOf(changes: object, broken: object[] = []) {
  const sheet = {
    job_id: 4,
    revision: 2,
    specimens: [placed, placed],
    replacements: {},
    cut_at: null,
    left_to_cut: 2,
    shortage: null,
    ...changes,
  }
  const place = vi.fn(() => Promise.resolve())
  const push = vi.fn()
  const act = vi.fn(async (work: () => Promise<unknown>) => {
    await work()
    return true
  })
  const step = useCuttingStep(
    computed(() => sheet as unknown as SheetView),
    computed(() => broken as BrokenRule[]),
    act,
    place,
    { push } as unknown as Router,
  )
  return { ...step, place, push }
}

describe('the next step at the sheet', () => {
  it('is to place the specimens, or those that are left', () => {
    const none = stepOf({ specimens: [unplaced, unplaced] })
    expect(none.nothingPlaced.value).toBe(true)
    expect(none.next.value?.text).toBe('Place specimens')
    void none.next.value?.go()
    expect(none.place).toHaveBeenCalled()
    const some = stepOf({ specimens: [placed, unplaced] }).next.value
    expect(some?.text).toBe('Place specimens again')
    expect(some?.why).toBe('One specimen is not placed.')
    expect(stepOf({ specimens: [placed, unplaced], shortage: {} }).next.value?.why).toBe('')
  })

  it('is to place again what breaks a rule, around what is locked', () => {
    expect(stepOf({}, [{}]).next.value?.text).toBe('Place specimens again')
    const locked = stepOf({ specimens: [{ ...placed, locked: true }, placed] }, [{}])
    expect(locked.locked.value).toBe(1)
    expect(locked.next.value?.text).toBe('Place remaining specimens')
  })

  it('is to confirm the cut of this revision once no rule is broken', async () => {
    const post = vi.spyOn(client, 'POST').mockResolvedValue({
      data: {},
      response: new Response(null, { status: 200 }),
    })
    const { next } = stepOf({})
    expect(next.value?.text).toBe('Confirm cut')
    await next.value?.go()
    expect(post.mock.calls[0]).toEqual([
      '/api/jobs/{job_id}/sheet/cut',
      { params: { path: { job_id: 4 } }, body: { revision: 2 } },
    ])
    post.mockRestore()
  })

  it('is to condition what is cut, and to cut a replacement before that', () => {
    const cut = { cut_at: '2026-11-20T12:00:00Z', left_to_cut: 0 }
    const { next, push } = stepOf(cut)
    expect(next.value?.text).toBe('Start conditioning')
    void next.value?.go()
    expect(push).toHaveBeenCalledWith(expect.stringContaining('/conditioning'))
    const short = stepOf({ ...cut, replacements: { 7: { warp: 1 } } })
    expect(short.next.value?.text).toBe('Cut replacement, warp')
  })
})
