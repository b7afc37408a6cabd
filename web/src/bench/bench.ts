import { t } from '@/ui/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type ComputedRef, type Ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { keepAnswer, type useAct } from '@/api/queries'
import { offerUndo } from '@/ui/undo'

export type BenchView = Schemas['BenchView']
type Values = Record<string, number | string | null>

const LOOK_AGAIN_MS = 2500
/** An act is answered with the bench as it is then; which specimen is next stands in the job. */
const NEEDED = ['job']

/** One specimen at the bench: the server says where it stands and what is next; we ask for it. */
export function useBench(
  specimenId: ComputedRef<number | null>,
  stationId: Ref<number | null>,
  { act, refused, refusedFor }: ReturnType<typeof useAct>,
) {
  const queries = useQueryClient()
  const queryKey = computed(() => ['bench', specimenId.value, stationId.value])
  const query = useQuery({
    queryKey,
    queryFn: () =>
      ask(
        client.GET('/api/specimens/{specimen_id}/bench', {
          params: {
            path: { specimen_id: specimenId.value! },
            query: { station_id: stationId.value ?? undefined },
          },
        }),
      ),
    enabled: computed(() => specimenId.value !== null),
    // A device at rest tells nothing by itself: what it shows is looked at again.
    refetchInterval: (state) =>
      state.state.data?.station && state.state.data.phase !== 'recording' ? LOOK_AGAIN_MS : false,
  })
  const view = computed<BenchView | null>(() => (query.data.value as BenchView | undefined) ?? null)
  /** Ask why, and go on with the answer: set while a step would depart from a rule. */
  const departing = ref<{ text: string; go: (why: string) => void } | null>(null)

  async function send(
    requested: string,
    values: Values,
    confirmed: string[],
    deviation: string | null,
    request_key: string,
    read: Record<string, string>,
  ): Promise<boolean> {
    const seen = view.value!
    const sent = await act(async () => {
      const acting = ask(
        client.POST('/api/specimens/{specimen_id}/actions', {
          params: { path: { specimen_id: seen.specimen_id } },
          body: {
            act: requested,
            seen: seen.last,
            station_id: seen.station?.id ?? null,
            confirmed,
            values,
            deviation,
            request_key,
            read,
          },
        }),
      )
      await keepAnswer(queries, queryKey.value, acting)
    }, NEEDED)
    if (!sent && !deviation && refusedFor.value === 'needs-reason') {
      const text = refused.value
      refused.value = ''
      departing.value = {
        text,
        go: (why) => void send(requested, values, confirmed, why, request_key, read),
      }
    }
    return sent
  }

  /** Do the step that is next, or one that may be done beside it, with what it asks for. */
  function doStep(values: Values = {}, requested?: string, read: Record<string, string> = {}) {
    const also = view.value?.also.find((beside) => beside.act === requested)
    const step = also ?? view.value?.step
    if (!step) return Promise.resolve(false)
    const { label = '', run_id = null } = view.value ?? {}
    const sent = send(step.act, values, step.confirms, null, crypto.randomUUID(), read)
    if (step.act === 'keep' && run_id !== null)
      void sent.then((isDone) => isDone && offerToReopen(label, run_id))
    return sent
  }
  const offerToReopen = (label: string, run_id: number) =>
    offerUndo(t('bench.accepted-3', { label }), () =>
      ask(client.POST('/api/runs/{run_id}/accept/undo', { params: { path: { run_id } } })),
    )
  const takeBack = (number: number) =>
    act(async () => {
      const seen = view.value!
      const taking = ask(
        client.POST('/api/specimens/{specimen_id}/actions/{number}/undo', {
          params: { path: { specimen_id: seen.specimen_id, number } },
          body: { seen: seen.last },
        }),
      )
      await keepAnswer(queries, queryKey.value, taking)
    }, NEEDED)

  return { query, view, doStep, takeBack, departing }
}
