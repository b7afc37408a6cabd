import { afterEach, describe, expect, it, vi } from 'vitest'
import UndoOffer from '@/app/UndoOffer.vue'
import { offerUndo, useUndo } from '@/ui/undo'
import { Problem } from '@/api/client'
import { mountInKit } from './kit'
import { button, press, settled, shown } from '../serve'

afterEach(async () => {
  vi.useRealTimers()
  useUndo().dismiss()
  await settled()
})

describe('what was done last', () => {
  it('can be undone by one press, and says so', async () => {
    const undo = vi.fn(() => Promise.resolve())
    mountInKit(UndoOffer)
    expect(shown()).toBe('')
    offerUndo('W1 accepted', undo)
    await settled()
    expect(document.querySelector('[role="status"]')!.textContent).toContain('W1 accepted')
    await press('Undo')
    expect(undo).toHaveBeenCalledTimes(1)
    expect(shown()).toContain('Undone: W1 accepted')
    expect(() => button('Undo ')).toThrow()
  })

  it('says why it could not be undone', async () => {
    mountInKit(UndoOffer)
    offerUndo('W1 accepted', () => Promise.reject(new Problem(409, 'The report is released.')))
    await settled()
    await press('Undo')
    expect(shown()).toContain('The report is released.')
  })

  it('gives way to what was done after it', async () => {
    const first = vi.fn(() => Promise.resolve())
    mountInKit(UndoOffer)
    offerUndo('W1 accepted', first)
    offerUndo('W2 voided', () => Promise.resolve())
    await settled()
    expect(shown()).not.toContain('W1')
    await press('Undo')
    expect(first).not.toHaveBeenCalled()
  })

  it('is offered for a minute, and can be put away', () => {
    vi.useFakeTimers()
    const { offer, dismiss } = useUndo()
    offerUndo('W1 accepted', () => Promise.resolve())
    vi.advanceTimersByTime(59_000)
    expect(offer.value?.text).toBe('W1 accepted')
    vi.advanceTimersByTime(2_000)
    expect(offer.value).toBeNull()
    offerUndo('W2 accepted', () => Promise.resolve())
    dismiss()
    vi.advanceTimersByTime(1)
    expect(offer.value).toBeNull()
  })
})
