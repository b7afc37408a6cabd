import {
  keepPreviousData,
  useInfiniteQuery,
  useQuery,
  useQueryClient,
  type InvalidateQueryFilters,
  type QueryClient,
  type QueryKey,
} from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { ask, client, Problem, sentence, type Schemas } from '@/api/client'

const LONGEST_WAIT_MS = 2000
/** What nobody changes by acting on a job: read once, or when its own page asks. */
const LASTING = ['device-kinds', 'methods', 'method', 'example', 'label-stocks', 'log']
const mayChange = ({ queryKey }: { queryKey: readonly unknown[] }) =>
  !LASTING.includes(String(queryKey[0]))

export interface JobsLookedFor {
  place: Schemas['JobLine']['next_screen'] | null
  state: 'open' | 'released'
  search: string
  only: 'late' | 'mine' | 'waiting' | 'on-hold' | null
  sort: 'due' | 'number' | 'product' | null
  descending: boolean
}

/** The jobs that are looked for, page by page. */
export function useJobs(requested: Ref<JobsLookedFor>) {
  return useInfiniteQuery({
    queryKey: ['jobs', requested],
    queryFn: ({ pageParam }) => {
      const { place, only, sort, ...rest } = requested.value
      const query = {
        ...rest,
        place: place ?? undefined,
        only: only ?? undefined,
        sort: sort ?? undefined,
        after: pageParam ?? undefined,
      }
      return ask(client.GET('/api/jobs', { params: { query } }))
    },
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.after,
    placeholderData: keepPreviousData,
  })
}

/** How many jobs wait at each screen. */
export function useWaiting() {
  return useQuery({
    queryKey: ['waiting'],
    queryFn: () => ask(client.GET('/api/jobs/waiting')),
  })
}

export function useDue() {
  return useQuery({
    queryKey: ['due'],
    queryFn: () => ask(client.GET('/api/due')),
    staleTime: 60_000,
  })
}

export function useJob(id: number) {
  return useQuery({
    queryKey: ['job', id],
    queryFn: () => ask(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: id } } })),
  })
}

export function useSheet(id: number) {
  return useQuery({
    queryKey: ['sheet', id],
    queryFn: () =>
      ask(client.GET('/api/jobs/{job_id}/sheet', { params: { path: { job_id: id } } })),
  })
}

/** Every kind of device, as the server lists them. */
export function useDeviceKinds() {
  const { data } = useQuery({
    queryKey: ['device-kinds'],
    queryFn: () => ask(client.GET('/api/device-kinds')),
    staleTime: Infinity,
  })
  const kinds = computed(() => data.value ?? [])
  const kindOf = (code: string) => kinds.value.find((kind) => kind.code === code)
  return { kinds, kindOf, faultsOf: (code: string) => kindOf(code)?.faults ?? [] }
}

export function useMethods() {
  return useQuery({
    queryKey: ['methods'],
    queryFn: () => ask(client.GET('/api/methods')),
    staleTime: Infinity,
  })
}

/**
 * Show what the server answers to an act. A page that was read meanwhile may be older than the answer, and
 * would put back what was there; or newer, because a run ended before the answer came. So the answer is
 * shown, and the page is read once more.
 */
export async function keepAnswer(
  queries: QueryClient,
  queryKey: QueryKey,
  asking: Promise<unknown>,
) {
  const readBefore = queries.getQueryState(queryKey)?.dataUpdateCount
  const answer = await asking
  const read = queries.getQueryState(queryKey)
  const isOvertaken = read?.fetchStatus === 'fetching' || read?.dataUpdateCount !== readBefore
  await queries.cancelQueries({ queryKey, exact: true })
  queries.setQueryData(queryKey, answer)
  if (isOvertaken) void queries.invalidateQueries({ queryKey, exact: true })
}

/**
 * Do something on the server; what was refused is kept as a sentence, and everything is read again.
 * It is busy until that is done, so that nothing is asked for with a page that is behind; not for
 * long, because a server that is gone must not take the buttons with it.
 *
 * An act that names what the page `needs` before it goes on reads that alone: the server tells of the
 * rest as it changes. After a refusal everything is read, for the page was behind.
 */
export function useAct() {
  const queries = useQueryClient()
  const refused = ref('')
  /** What kind of refusal it was, as the server calls it. */
  const refusedFor = ref('')
  const busy = ref(false)

  async function act(work: () => Promise<unknown>, needs?: QueryKey): Promise<boolean> {
    refused.value = ''
    refusedFor.value = ''
    busy.value = true
    let read: InvalidateQueryFilters = { predicate: mayChange }
    try {
      await work()
      if (needs) read = { queryKey: needs }
      return true
    } catch (error) {
      refused.value = sentence(error)
      refusedFor.value = error instanceof Problem ? error.code : ''
      return false
    } finally {
      const done = queries.invalidateQueries(read).catch(() => undefined)
      await Promise.race([done, new Promise((later) => setTimeout(later, LONGEST_WAIT_MS))])
      busy.value = false
    }
  }
  return { act, refused, refusedFor, busy }
}
