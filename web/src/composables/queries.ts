import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { ask, client, sentence } from '@/api/client'

const SECOND_USER_MS = 4000
const LONGEST_WAIT_MS = 2000

export function useJobs() {
  return useQuery({
    queryKey: ['jobs'],
    queryFn: () => ask(client.GET('/api/jobs')),
    refetchInterval: 10_000,
  })
}

export function useJob(id: number) {
  return useQuery({
    queryKey: ['job', id],
    queryFn: () => ask(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: id } } })),
    refetchInterval: SECOND_USER_MS,
  })
}

export function useSheet(id: number) {
  return useQuery({
    queryKey: ['sheet', id],
    queryFn: () =>
      ask(client.GET('/api/jobs/{job_id}/sheet', { params: { path: { job_id: id } } })),
    refetchInterval: SECOND_USER_MS,
  })
}

export function useMethods() {
  return useQuery({
    queryKey: ['methods'],
    queryFn: () => ask(client.GET('/api/methods')),
    staleTime: Infinity,
  })
}

/**
 * Do something on the server; what was refused is kept as a sentence, and everything is read again.
 * It is busy until that is done, so that nothing is asked for with a page that is behind; not for
 * long, because a server that is gone must not take the buttons with it.
 */
export function useAct() {
  const queries = useQueryClient()
  const refused = ref('')
  const busy = ref(false)

  async function act(work: () => Promise<unknown>): Promise<boolean> {
    refused.value = ''
    busy.value = true
    try {
      await work()
      return true
    } catch (error) {
      refused.value = sentence(error)
      return false
    } finally {
      const read = queries.invalidateQueries().catch(() => undefined)
      await Promise.race([read, new Promise((later) => setTimeout(later, LONGEST_WAIT_MS))])
      busy.value = false
    }
  }
  return { act, refused, busy }
}
