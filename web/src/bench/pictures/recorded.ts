import { useQuery } from '@tanstack/vue-query'
import { computed, type ComputedRef } from 'vue'
import { ask, client, type SpecimenView } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import { useLiveRun } from '@/bench/liveRun'
import type { Mark } from '@/ui/TraceChart.vue'

/** What a device records of a specimen: live as it grows, then as it is stored and computed. */
export function useRecorded(
  view: ComputedRef<BenchView | null>,
  specimen: ComputedRef<SpecimenView | null>,
  over: (abandoned: string) => void,
) {
  const runId = computed(() => specimen.value?.run_id ?? null)
  const isLive = computed(() => view.value?.run_state === 'running')
  const liveId = computed(() => (isLive.value ? (view.value?.run_id ?? null) : null))
  const live = useLiveRun(liveId, (piece) =>
    over(piece.state === 'abandoned' ? (piece.end_reason ?? '') : ''),
  )
  const run = useQuery({
    queryKey: ['run', runId, computed(() => view.value?.run_state)],
    queryFn: () =>
      ask(client.GET('/api/runs/{run_id}', { params: { path: { run_id: runId.value! } } })),
    enabled: computed(() => runId.value !== null && !isLive.value),
    staleTime: Infinity,
  })
  const shown = computed(() =>
    isLive.value || runId.value === null ? null : (run.data.value ?? null),
  )
  const curve = computed(() => shown.value?.curves.at(-1) ?? null)
  const x = computed(() => (isLive.value ? live.x.value : (curve.value?.x ?? [])))
  const y = computed(() => (isLive.value ? live.y.value : (curve.value?.y ?? [])))
  const marks = computed(() => (shown.value?.result?.marks ?? []) as Mark[])
  const working = computed(() => (shown.value?.result?.working ?? []) as Record<string, string>[])
  /** What is wrong with the line while it records; empty while nothing is. */
  const trouble = computed(() => {
    if (!isLive.value) return ''
    if (live.away.value) return 'This screen lost the server; the run goes on. Looking again …'
    const piece = live.piece.value
    if (piece?.line !== 'lost') return ''
    return `${piece.line_says}. ${piece.samples} samples are safe; asking again for the rest …`
  })
  return { isLive, shown, x, y, marks, working, trouble }
}
export type Recorded = ReturnType<typeof useRecorded>
