import { ref } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useElsewhere, useNews } from '@/app/elsewhere'
import NewsNote from '@/app/NewsNote.vue'
import { settled, shown } from '../serve'
import { signedIn } from './desk'
import { mountInKit } from './kit'

const event = (minute: number, who: string, text: string) => ({
  at: `2026-11-02T08:${String(minute).padStart(2, '0')}:00Z`,
  who,
  text: `${who} ${text}`,
})
const received = event(0, 'Ines', 'received the sample')

beforeEach(async () => signedIn('test'))
afterEach(() => {
  vi.useRealTimers()
  useNews().dismiss()
})

function opened(...events: ReturnType<typeof event>[]) {
  const job = ref<{ number: string; events: typeof events } | undefined>({
    number: 'J-0402',
    events,
  })
  const host = { setup: () => (useElsewhere(job), () => null) }
  mountInKit(host)
  mountInKit(NewsNote)
  const next = async (...now: typeof events) => {
    job.value = { number: 'J-0402', events: now }
    await settled()
  }
  return { job, next }
}

describe('what happens elsewhere to a job that is open here', () => {
  it('is shown with its number, once', async () => {
    const { next } = opened(received)
    expect(shown()).not.toContain('J-0402')
    await next(event(5, 'Olga', 'accepted W3'), received)
    expect(shown()).toContain('J-0402: Olga accepted W3')
    useNews().dismiss()
    await next(event(5, 'Olga', 'accepted W3'), received)
    expect(shown()).not.toContain('Olga')
  })

  it('is counted where it is several things', async () => {
    const { next } = opened(received)
    await next(
      event(7, 'Olga', 'voided W4'),
      event(6, 'Ines', 'accepted W2'),
      event(5, 'Olga', 'accepted W3'),
      received,
    )
    expect(shown()).toContain('Olga voided W4 (and 1 more)')
  })

  it('leaves out what the person here did, and what was there when it was opened', async () => {
    const { next } = opened(event(3, 'Olga', 'placed the specimens'), received)
    expect(shown()).not.toContain('Olga')
    await next(event(5, 'Ines', 'accepted W3'), event(3, 'Olga', 'placed the specimens'), received)
    expect(useNews().news.value).toBe('')
  })

  it('leaves out what a device reported, which the page itself shows', async () => {
    const { next } = opened(received)
    await next(event(5, '', 'W5 ended: end of travel'), received)
    expect(useNews().news.value).toBe('')
  })

  it('waits for a job that is still loading', async () => {
    const { job, next } = opened(received)
    job.value = undefined
    await settled()
    await next(event(4, 'Olga', 'accepted W1'), received)
    expect(shown()).toContain('Olga accepted W1')
  })

  it('goes away by itself', async () => {
    const { next } = opened(received)
    vi.useFakeTimers({ shouldAdvanceTime: true })
    await next(event(5, 'Olga', 'accepted W3'), received)
    await vi.advanceTimersByTimeAsync(8_500)
    expect(useNews().news.value).toBe('')
  })
})
