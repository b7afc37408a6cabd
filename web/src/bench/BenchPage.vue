<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAct, useJob, useMethods } from '@/api/queries'
import { useBench } from '@/bench/bench'
import BenchFoot from '@/bench/BenchFoot.vue'
import BenchLeaves from '@/bench/BenchLeaves.vue'
import BenchHead from '@/bench/BenchHead.vue'
import { useHand } from '@/bench/hand'
import { onwardKeys, useOnward } from '@/bench/onward'
import NextStep from '@/bench/NextStep.vue'
import { PICTURES } from '@/bench/pictures'
import { useRecorded } from '@/bench/pictures/recorded'
import ReadyList from '@/bench/ReadyList.vue'
import { useBenchScans } from '@/bench/scanned'
import SpecimenFacts from '@/bench/SpecimenFacts.vue'
import SetUpLeaf from '@/jobs/SetUpLeaf.vue'
import { useSpecimenActs } from '@/bench/specimenActs'
import VoidKeys from '@/bench/VoidKeys.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import { useKeys } from '@/ui/keys'
import LimitRule from '@/ui/LimitRule.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import StateNote from '@/ui/StateNote.vue'

/** One specimen, one station, one next action; what is next, the server says. */
const props = defineProps<{ id: number }>()
const route = useRoute()
const router = useRouter()
const job = useJob(props.id)
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
const { voidWith, takeBack, bringIn, pretend, departingFile } = useSpecimenActs(
  acting,
  current,
  view,
)
watch(recorded.trouble, () => void query.refetch())
const scanSays = useBenchScans(current, props.id, picked)
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

const next = ref<InstanceType<typeof NextStep> | null>(null)
const voids = ref<InstanceType<typeof VoidKeys> | null>(null)
const foot = ref<InstanceType<typeof BenchFoot> | null>(null)
const leaves = ref<InstanceType<typeof BenchLeaves> | null>(null)
async function go(values: Record<string, number | string | null>, wanted?: string) {
  const kept = step.value?.act === 'keep' && !wanted
  if ((await doStep(values, wanted)) && kept) picked.value = null
}
async function setAside(code: string, words: string) {
  if (await voidWith(code, words)) picked.value = null
}

useKeys(() => [
  ...onwardKeys(step.value, onward.value, () => next.value?.go(), router),
  ...(canVoid.value ? (method.value?.void_codes ?? []) : []).map((code, place) => ({
    key: String(place + 1),
    says: `void: ${code.title}`,
    act: () => voids.value?.choose(code),
  })),
  {
    key: 'i',
    says: 'bring a trace in from a file',
    act: () => canFile.value && foot.value?.open(),
  },
])
</script>

<template>
  <FromRecord v-if="!job.data.value" :query="job" />
  <StateNote
    v-else-if="!test"
    title="Nothing is run here"
    says="The tests of this job are brought in as documents or typed."
  />
  <div v-else class="bench">
    <BenchHead
      :test="test"
      :tests="tests"
      :in-hand="current?.id ?? null"
      @pick="picked = $event"
      @test="testId = $event"
    />
    <section class="middle">
      <component
        :is="PICTURES[view.picture]"
        v-if="view && current && PICTURES[view.picture]"
        :view="view"
        :specimen="current"
        :recorded="recorded"
        @working="leaves?.showWorking()"
      />
      <div v-if="row?.rule" class="rule">
        <p>
          <strong>{{ row.direction }}</strong><br /><span class="mono small">{{
            row.limit_words
          }}</span>
        </p>
        <LimitRule :rule="row.rule" size="page" />
      </div>
    </section>
    <aside>
      <SpecimenFacts
        v-if="current"
        :specimen="current"
        :back-to="!isNext ? suggested : null"
        :waits="step ? '' : (view?.waits ?? '')"
        :remarks="view?.remarks ?? []"
        :suspicions="view?.suspicions ?? []"
        :released="test.released"
        @back="picked = null"
        @take-back="leaves?.askToTakeBack()"
      />
      <p v-if="scanSays" class="flag" role="status">{{ scanSays }}</p>
      <NextStep
        v-if="step && current"
        ref="next"
        :step="step"
        :also="view!.also"
        :specimen-id="current.id"
        :gauges="view!.gauges"
        :busy="busy"
        @go="go"
      />
      <template v-else-if="onward">
        <h2>Nothing is left to do here</h2>
        <ActButton kind="main" :to="onward.to">{{ onward.words }} <kbd>Enter</kbd></ActButton>
      </template>
      <RefusalNote v-model="refused" />
      <VoidKeys
        v-if="canVoid && method"
        ref="voids"
        :codes="method.void_codes"
        :quiet="current?.state === 'tested'"
        :busy="busy"
        @void="setAside"
      />
      <ReadyList
        v-if="view && step && view.phase === 'before'"
        :checks="view.checks"
        :busy="busy"
        @take-back="takeActBack"
      />
      <SetUpLeaf v-if="view?.phase === 'before'" :test="test" />
      <p v-if="view?.station?.overdue" class="flag">
        The calibration of {{ view.station.instrument }} is overdue.
      </p>
      <BenchFoot
        v-if="view"
        ref="foot"
        :view="view"
        :recorded="recorded"
        :job-id="id"
        :filed="canFile"
        @file="bringIn"
        @pretend="pretend"
        @station="stationId = $event"
      />
    </aside>
    <BenchLeaves
      ref="leaves"
      :label="current?.label ?? ''"
      :working="recorded.working.value"
      :departing="departing"
      :filing="departingFile"
      @take-back="takeBack"
    />
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr) 320px;
  gap: 12px 30px;
  height: 100%;
}

.middle {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

.rule {
  display: grid;
  grid-template-columns: 132px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  margin-top: auto;
}

aside {
  display: flex;
  flex-direction: column;
  gap: 13px;
  min-height: 0;
  padding-left: 26px;
  overflow-y: auto;
  border-left: 1px solid var(--hair);
}

.flag {
  padding: 7px 12px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

@media (max-width: 1100px) {
  .bench {
    grid-template-columns: minmax(0, 1fr) 262px;
    gap: 10px 20px;
  }

  aside {
    padding-left: 18px;
  }
}

@media (max-width: 860px) {
  .bench {
    grid-template: auto auto auto / minmax(0, 1fr);
    height: auto;
  }

  aside {
    padding: 0;
    border: 0;
  }
}
</style>
