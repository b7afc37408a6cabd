import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { defineComponent } from 'vue'
import { useAct } from '@/api/queries'

function acting() {
  const queryClient = new QueryClient()
  for (const key of [['job', 7], ['bench', 1], ['waiting'], ['methods']])
    queryClient.setQueryData(key, {})
  let acts!: ReturnType<typeof useAct>
  const Page = defineComponent({
    setup: () => {
      acts = useAct()
      return () => null
    },
  })
  mount(Page, { global: { plugins: [[VueQueryPlugin, { queryClient }]] } })
  const stale = () =>
    queryClient
      .getQueryCache()
      .getAll()
      .filter((query) => query.state.isInvalidated)
      .map((query) => String(query.queryKey[0]))
  return { acts, stale }
}

const refused = () => Promise.reject(new Error('someone was first'))

describe('an act', () => {
  it('reads everything that it may have changed', async () => {
    const { acts, stale } = acting()
    expect(await acts.act(() => Promise.resolve())).toBe(true)
    expect(stale()).toEqual(['job', 'bench', 'waiting'])
    expect(acts.busy.value).toBe(false)
  })

  it('reads what the page needs and no more, where it says so', async () => {
    const { acts, stale } = acting()
    expect(await acts.act(() => Promise.resolve(), ['job'])).toBe(true)
    expect(stale()).toEqual(['job'])
  })

  it('reads everything after a refusal, for the page was behind', async () => {
    const { acts, stale } = acting()
    expect(await acts.act(refused, ['job'])).toBe(false)
    expect(stale()).toEqual(['job', 'bench', 'waiting'])
    expect(acts.refused.value).not.toBe('')
  })
})
