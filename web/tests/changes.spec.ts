import { QueryClient } from '@tanstack/vue-query'
import { describe, expect, it, vi } from 'vitest'
import { readAgain } from '@/api/changes'

function filled() {
  const queries = new QueryClient()
  const keys = [
    ['jobs', { state: 'open' }],
    ['waiting'],
    ['clocks'],
    ['conditioning'],
    ['job', 7],
    ['job', 8],
    ['draft', 7],
    ['sheet', 8],
    ['methods'],
    ['log', 1, 24],
  ]
  for (const key of keys) queries.setQueryData(key, {})
  const stale = () =>
    queries
      .getQueryCache()
      .getAll()
      .filter((query) => query.state.isInvalidated)
      .map((query) => query.queryKey.slice(0, 2).join(' '))
  return { queries, stale }
}

describe('a change', () => {
  it('is read after a first reading that it met under way', async () => {
    const queries = new QueryClient()
    let deliver: (old: string) => void = () => undefined
    const first = queries.fetchQuery({
      queryKey: ['job', 7],
      queryFn: () => new Promise<string>((resolve) => (deliver = resolve)),
    })
    readAgain(queries, { jobs: [7], rooms: false })
    deliver('from before the change')
    await first
    await Promise.resolve()
    await vi.waitFor(() => expect(queries.getQueryState(['job', 7])?.isInvalidated).toBe(true))
  })

  it('of a job is read again where it shows, and nowhere else', () => {
    const { queries, stale } = filled()
    readAgain(queries, { jobs: [7], rooms: false })
    expect(stale()).toEqual([
      'jobs [object Object]',
      'waiting',
      'clocks',
      'conditioning',
      'job 7',
      'draft 7',
    ])
  })

  it('of a room leaves the jobs as they are', () => {
    const { queries, stale } = filled()
    readAgain(queries, { jobs: [], rooms: true })
    expect(stale()).toEqual(['clocks', 'conditioning', 'log 1'])
  })
})
