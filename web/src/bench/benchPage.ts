import { t } from '@/ui/words'
import { useElsewhere } from '@/app/elsewhere'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { ask, client, type Schemas } from '@/api/client'
import { useAct, useJob, useMethods } from '@/api/queries'
import { useBench } from '@/bench/bench'
import { useHand } from '@/bench/hand'
import { useOnward } from '@/bench/onward'
import { useRecorded } from '@/bench/procedures/recorded'
import { useBenchScans } from '@/bench/scanned'
import { useSpecimenActs } from '@/bench/specimenActs'

/** Everything that the page of a bench shows of one job: which test and specimen is in hand, and what is next. */
export function useBenchPage(jobId: number) {
  const route = useRoute()
  const job = useJob(jobId)
  useElsewhere(job.data)
  const methods = useMethods()
  const acting = useAct()
  const { refused, busy } = acting

  const { tests, test, current, suggested, isNext, picked, testId } = useHand(
    job,
    Number(route.query.specimen) || null,
  )
  const method = computed(() => methods.data.value?.find((line) => line.id === test.value?.method))
  const row = computed(() =>
    test.value?.rows.find((line) => line.direction === current.value?.direction),
  )
  const stationId = ref<number | null>(null)
  const {
    query,
    view,
    doStep,
    takeBack: takeActBack,
    departing,
  } = useBench(
    computed(() => current.value?.id ?? null),
    stationId,
    acting,
  )
  const recorded = useRecorded(view, current, (why) => {
    if (why) refused.value = t('bench.the-run-gave-no-samples-the-specimen', { why })
    void job.refetch()
    void query.refetch()
  })
  const { voidWith, note, takeBack, bringIn, simulate, departingFile } = useSpecimenActs(
    acting,
    current,
    view,
  )
  watch(recorded.trouble, () => void query.refetch())
  /** Take over set-up that the specimens so far propose. */
  const propose = (proposal: Schemas['ProposalView']) =>
    acting.act(async () => {
      await ask(
        client.PUT('/api/tests/{test_id}/set-up', {
          params: { path: { test_id: test.value!.id } },
          body: {
            parameters: { [proposal.name]: proposal.value },
            revision: test.value!.revision,
            reason: t('bench.proposed-by-the-specimens-so-far'),
          },
        }),
      )
      await query.refetch()
    })
  const scanSays = useBenchScans(current, jobId, picked)
  const onward = useOnward(job, suggested)
  /** A result is accepted only once its curve has been drawn. */
  const isDrawn = computed(
    () => view.value?.run_id == null || recorded.shown.value?.id === view.value.run_id,
  )
  const step = computed(() => {
    const due = view.value?.step ?? null
    const isEnd = due?.kind === 'look' || due?.kind === 'suspect'
    return isEnd && !isDrawn.value ? null : due
  })
  const canVoid = computed(() => view.value?.may_void ?? false)
  const canFile = computed(() => view.value?.may_bring_in ?? false)

  return {
    job,
    tests,
    test,
    current,
    suggested,
    isNext,
    picked,
    testId,
    method,
    row,
    stationId,
    view,
    doStep,
    takeActBack,
    departing,
    recorded,
    voidWith,
    note,
    propose,
    takeBack,
    bringIn,
    simulate,
    departingFile,
    scanSays,
    onward,
    step,
    canVoid,
    canFile,
    refused,
    busy,
  }
}
