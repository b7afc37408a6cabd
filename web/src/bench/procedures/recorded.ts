import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, type ComputedRef } from 'vue'
import { ask, client, type SpecimenView, type Schemas } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import { useLiveRun } from '@/bench/liveRun'
import type { Mark } from '@/ui/mark'

interface Curve {
  x: number[]
  y: number[]
}
const BACK_MM = 2
const PREVIOUS_KEPT_MS = 60_000

/** The halves of a pair: the second begins where the jaws have gone back to their distance. */
export function halvesOf(x: number[], y: number[]): Curve[] {
  const from = x.findIndex((at, place) => place > 0 && at < BACK_MM && x[place - 1]! > 2 * BACK_MM)
  if (from < 0) return [{ x, y }]
  return [
    { x: x.slice(0, from), y: y.slice(0, from) },
    { x: x.slice(from), y: y.slice(from) },
  ]
}

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
  const liveCurves = () =>
    view.value?.procedure === 'paired-trace'
      ? halvesOf(live.x.value, live.y.value)
      : [{ x: live.x.value, y: live.y.value }]
  const curves = computed<Curve[]>(() =>
    isLive.value ? liveCurves() : (shown.value?.curves ?? []),
  )
  const curve = computed(() => curves.value.at(-1) ?? null)
  const x = computed(() => curve.value?.x ?? [])
  const y = computed(() => curve.value?.y ?? [])
  const previousCurves = useQuery({
    queryKey: ['previousCurves', computed(() => specimen.value?.id), runId],
    queryFn: () =>
      ask(
        client.GET('/api/specimens/{specimen_id}/bench/previous-curves', {
          params: { path: { specimen_id: specimen.value!.id } },
        }),
      ),
    enabled: computed(() => Boolean(view.value?.drawing && specimen.value)),
    // They change as another specimen of the test ends, which is not while this one is in hand.
    staleTime: PREVIOUS_KEPT_MS,
  })
  /** The other half of a pair, and faintly what went before. */
  const under = computed(() => [
    ...(previousCurves.data.value ?? []).map((ghost) => ({ ...ghost, faint: true })),
    ...curves.value.slice(0, -1),
  ])
  const marks = computed(() => (shown.value?.result?.marks ?? []) as Mark[])
  const working = computed(() => (shown.value?.result?.working ?? []) as Schemas['WorkingRow'][])
  /** What is wrong with the line while it records; empty while nothing is. */
  const trouble = computed(() => {
    if (!isLive.value) return ''
    if (live.away.value) return t('bench.the-connection-to-the-server-is-lost')
    const piece = live.piece.value
    if (piece?.line !== 'lost') return ''
    return t('bench.samples-are-stored-reading-the-rest', {
      line_message: piece.line_message,
      samples: piece.samples,
    })
  })
  return { isLive, shown, x, y, under, marks, working, trouble }
}
export type Recorded = ReturnType<typeof useRecorded>
