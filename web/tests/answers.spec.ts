import { QueryClient } from '@tanstack/vue-query'
import { describe, expect, it } from 'vitest'
import { keepAnswer } from '@/api/queries'

describe('what the server answered to an act', () => {
  it('is not undone by a reading of the page that began before it', async () => {
    const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } })
    let deliver: (old: string) => void = () => undefined
    const reading = queries
      .fetchQuery({
        queryKey: ['measuring', 1],
        queryFn: () => new Promise<string>((resolve) => (deliver = resolve)),
      })
      .catch(() => undefined)
    const kept = keepAnswer(queries, ['measuring', 1], 'with the reading')
    deliver('without it')
    await Promise.all([kept, reading])
    expect(queries.getQueryData(['measuring', 1])).toBe('with the reading')
  })
})
