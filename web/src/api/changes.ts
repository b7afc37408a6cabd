import { useQueryClient, type InvalidateQueryFilters, type QueryClient } from '@tanstack/vue-query'
import { useEventSource, useIntervalFn, useOnline } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

/** The ids of jobs that have changed, and whether a room was read. */
export interface Changed {
  jobs: number[]
  rooms: boolean
}

/** Which queries show something of a job, and which show something of all jobs. */
const OF_A_JOB = ['job', 'sheet', 'draft']
const OF_ITS_TESTS = ['measuring', 'preparation', 'bench', 'photo-subjects']
const OF_ALL_JOBS = ['jobs', 'waiting', 'clocks', 'conditioning']
const OF_ROOMS = ['clocks', 'conditioning', 'log']

/** Read again what a change is about, and nothing else. */
export function readAgain(queries: QueryClient, changed: Changed) {
  if (changed.jobs.length) {
    for (const name of [...OF_ALL_JOBS, ...OF_ITS_TESTS]) again(queries, { queryKey: [name] })
    const jobs = new Set(changed.jobs)
    again(queries, {
      predicate: ({ queryKey }) =>
        OF_A_JOB.includes(String(queryKey[0])) && jobs.has(queryKey[1] as number),
    })
  }
  if (changed.rooms) for (const name of OF_ROOMS) again(queries, { queryKey: [name] })
}

/**
 * A first reading that is under way may have been answered before the change, and is not asked for anew by
 * itself: it is read once more when it is there.
 */
function again(queries: QueryClient, which: InvalidateQueryFilters) {
  const first = queries
    .getQueryCache()
    .findAll(which)
    .filter(({ state }) => state.fetchStatus === 'fetching' && state.data === undefined)
  for (const { queryKey, promise } of first)
    void promise
      ?.catch(() => undefined)
      .then(() => queries.invalidateQueries({ queryKey, exact: true }))
  void queries.invalidateQueries(which)
}

const SILENT_MS = 12_000
const silent = ref(false)
const online = useOnline()
/** Nothing comes over the line any more: what is shown may be behind. */
export const lineIsLost = computed(() => silent.value || !online.value)

/** Follow the changes that the server tells; after a lost line everything is read again. */
export function useChanges() {
  const queries = useQueryClient()
  let listened = false
  let heardAt = performance.now()
  const { data, event, lastEventId, open, error } = useEventSource<
    ['listening', 'message', 'alive'],
    string
  >('/api/changes', ['listening', 'message', 'alive'], {
    autoReconnect: { retries: -1, delay: 1000 },
  })
  // Every event has a number of its own: two that say the same are two, and none is passed over.
  watch(
    lastEventId,
    () => {
      heardAt = performance.now()
      silent.value = false
      if (event.value === 'message' && data.value)
        readAgain(queries, JSON.parse(data.value) as Changed)
      if (event.value !== 'listening') return
      if (listened) void queries.invalidateQueries()
      listened = true
    },
    { flush: 'sync' },
  )
  watch(error, (failed) => {
    if (failed) silent.value = true
  })
  watch(online, (now) => {
    if (now) open()
  })
  // A cable that was pulled ends no connection: a line that says nothing is begun again.
  useIntervalFn(() => {
    if (performance.now() - heardAt < SILENT_MS) return
    heardAt = performance.now()
    silent.value = true
    // Whoever is no longer signed in learns it from an answer.
    void queries.invalidateQueries({ queryKey: ['clocks'] })
    open()
  }, 3000)
}
