import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useAct, useJob, useMethods } from '@/api/queries'
import { useBench } from '@/bench/bench'
import { useHand } from '@/bench/hand'
import { useOnward } from '@/bench/onward'
import { useRecorded } from '@/bench/pictures/recorded'
import { useBenchScans } from '@/bench/scanned'
import { useSpecimenActs } from '@/bench/specimenActs'

/** Everything that the page of a bench shows of one job: which test and specimen is in hand, and what is next. */
export function useBenchPage(jobId: number) {
  const route = useRoute()
  const job = useJob(jobId)
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
    if (why) refused.value = `The run gave no samples: ${why}. The specimen can be run again.`
    void job.refetch()
  })
  const { voidWith, note, takeBack, bringIn, pretend, departingFile } = useSpecimenActs(
    acting,
    current,
    view,
  )
  watch(recorded.trouble, () => void query.refetch())
  const scanSays = useBenchScans(current, jobId, picked)
  const onward = useOnward(job, suggested)
  const step = computed(() =>
    isNext.value || view.value?.phase !== 'before' ? (view.value?.step ?? null) : null,
  )
  const canVoid = computed(
    () => !test.value?.released && ['to-look-at', 'tested'].includes(current.value?.state ?? ''),
  )
  const canFile = computed(
    () => view.value?.picture === 'trace' && view.value.phase === 'before' && step.value !== null,
  )

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
    takeBack,
    bringIn,
    pretend,
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
