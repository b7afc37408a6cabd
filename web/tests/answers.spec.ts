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
    const kept = keepAnswer(queries, ['measuring', 1], Promise.resolve('with the reading'))
    deliver('without it')
    await Promise.all([kept, reading])
    expect(queries.getQueryData(['measuring', 1])).toBe('with the reading')
  })

  it('is read once more where the page was read before the answer came', async () => {
    const queries = new QueryClient()
    queries.setQueryData(['bench', 1], 'before')
    let answer: (now: string) => void = () => undefined
    const kept = keepAnswer(queries, ['bench', 1], new Promise((resolve) => (answer = resolve)))
    queries.setQueryData(['bench', 1], 'the run ended')
    answer('the run began')
    await kept
    expect(queries.getQueryState(['bench', 1])?.isInvalidated).toBe(true)
  })

  it('is not read again where nothing came between', async () => {
    const queries = new QueryClient()
    queries.setQueryData(['bench', 1], 'before')
    await keepAnswer(queries, ['bench', 1], Promise.resolve('after'))
    expect(queries.getQueryData(['bench', 1])).toBe('after')
    expect(queries.getQueryState(['bench', 1])?.isInvalidated).toBe(false)
  })
})
