<script setup lang="ts">
import { t } from '@/ui/words'
import { proxyRefs, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import BenchFoot from '@/bench/BenchFoot.vue'
import BenchDialogs from '@/bench/BenchDialogs.vue'
import BenchHead from '@/bench/BenchHead.vue'
import { onwardKeys } from '@/bench/onward'
import { useBenchPage } from '@/bench/benchPage'
import MeltPanel from '@/bench/MeltPanel.vue'
import NextStep from '@/bench/NextStep.vue'
import { PROCEDURES } from '@/bench/procedures'
import PhotoStrip from '@/bench/PhotoStrip.vue'
import RuleStrip from '@/bench/RuleStrip.vue'
import ReadyList from '@/bench/ReadyList.vue'
import SpecimenFacts from '@/bench/SpecimenFacts.vue'
import SetUpPanel from '@/jobs/SetUpPanel.vue'
import UndoLine from '@/bench/UndoLine.vue'
import WorkInHand from '@/bench/WorkInHand.vue'
import VoidKeys from '@/bench/VoidKeys.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import { useKeys } from '@/ui/keys'
import RefusalNote from '@/ui/RefusalNote.vue'
import StateNote from '@/ui/StateNote.vue'

/** One specimen, one station, one next action; what is next, the server says. */
const props = defineProps<{ id: number }>()
const router = useRouter()
const bench = proxyRefs(useBenchPage(props.id))

const next = ref<{ go(): Promise<void> } | null>(null)
const voids = ref<{ choose(code: Schemas['CodeLine']): void } | null>(null)
const foot = ref<{ open(): void } | null>(null)
/** Procedures whose drawing is small: the specimen, the steps and the results stand below it. */
const LEAVES_ROOM = new Set(['weigh', 'staircase', 'looks', 'grades', 'drops', 'cuts', 'leak'])
const dialogs = ref<Record<'showWorking' | 'askToTakeBack' | 'examine', () => void> | null>(null)
async function go(
  values: Record<string, number | string | null>,
  requested?: string,
  read?: Record<string, string>,
) {
  const kept = bench.step?.act === 'keep' && !requested
  if ((await bench.doStep(values, requested, read)) && kept) bench.picked = null
}
async function setAside(code: string, text: string) {
  if (await bench.voidWith(code, text)) bench.picked = null
}

useKeys(() => [
  ...onwardKeys(bench.step, bench.onward, () => void next.value?.go(), router),
  ...(bench.canVoid ? (bench.method?.void_codes ?? []) : []).map((code, place) => ({
    key: String(place + 1),
    text: t('bench.void', { title: code.title }),
    act: () => voids.value?.choose(code),
  })),
  {
    key: 'i',
    text: t('bench.import-a-trace-from-a-file'),
    act: () => bench.canFile && foot.value?.open(),
  },
])
</script>

<template>
  <FromRecord v-if="!bench.job.data.value" :query="bench.job" />
  <StateNote
    v-else-if="!bench.test"
    :title="t('bench.no-bench-test')"
    :text="t('bench.the-readings-of-this-job-are-imported')"
  />
  <div v-else class="bench">
    <BenchHead
      :test="bench.test"
      :tests="bench.tests"
      :in-hand="bench.current?.id ?? null"
      @pick="bench.picked = $event"
      @test="bench.testId = $event"
    />
    <section class="middle" :class="{ roomy: LEAVES_ROOM.has(bench.view?.procedure ?? '') }">
      <component
        :is="PROCEDURES[bench.view.procedure]"
        v-if="bench.view && bench.current && PROCEDURES[bench.view.procedure]"
        :view="bench.view"
        :specimen="bench.current"
        :recorded="bench.recorded"
        @working="dialogs?.showWorking()"
      />
      <WorkInHand
        v-if="bench.view && LEAVES_ROOM.has(bench.view.procedure)"
        :test="bench.test"
        :view="bench.view"
        :in-hand="bench.current?.id ?? null"
        @pick="bench.picked = $event"
      />
      <RuleStrip :row="bench.row" />
    </section>
    <aside>
      <SpecimenFacts
        v-if="bench.current"
        :specimen="bench.current"
        :back-to="!bench.isNext ? bench.suggested : null"
        :waits="bench.step ? '' : (bench.view?.waits ?? '')"
        :remarks="bench.view?.remarks ?? []"
        :suspicions="bench.view?.suspicions ?? []"
        :released="bench.test.released"
        @back="bench.picked = null"
        @take-back="dialogs?.askToTakeBack()"
      />
      <p v-if="bench.scanSays" class="flag" role="status">{{ bench.scanSays }}</p>
      <NextStep
        v-if="bench.step && bench.current"
        ref="next"
        :step="bench.step"
        :also="bench.view!.also"
        :proposals="bench.view!.proposals"
        :specimen-id="bench.current.id"
        :gauges="bench.view!.gauges"
        :shows="bench.view!.shows"
        :device="bench.view!.station?.name ?? ''"
        :serial="bench.view!.station?.serial ?? ''"
        :busy="bench.busy"
        @go="go"
        @examine="dialogs?.examine()"
        @propose="bench.propose"
      />
      <template v-else-if="bench.onward">
        <h2>{{ t('bench.no-specimen-is-waiting') }}</h2>
        <ActButton kind="main" :to="bench.onward.to"
          >{{ bench.onward.text }} <kbd>{{ t('bench.enter') }}</kbd></ActButton
        >
      </template>
      <RefusalNote v-model="bench.refused" />
      <UndoLine :view="bench.view" :busy="bench.busy" @take-back="bench.takeActBack" />
      <VoidKeys
        v-if="bench.canVoid && bench.method"
        ref="voids"
        :codes="bench.method.void_codes"
        :notes="bench.method.note_codes"
        :noted="bench.view?.noted"
        :quiet="bench.current?.state !== 'to-look-at'"
        :tested="bench.current?.state === 'tested'"
        :busy="bench.busy"
        @void="setAside"
        @note="bench.note"
      />
      <ReadyList
        v-if="bench.view && bench.step && bench.view.phase === 'before'"
        :checks="bench.view.checks"
        :busy="bench.busy"
        @take-back="bench.takeActBack"
      />
      <SetUpPanel v-if="bench.view && bench.view.phase !== 'recording'" :test="bench.test" />
      <p v-if="bench.test.measures.length" class="small">
        <router-link :to="`/measuring/${bench.test.id}`">{{
          t('bench.enter-or-correct-sizes')
        }}</router-link>
      </p>
      <MeltPanel v-if="bench.view?.procedure === 'cuts'" :test="bench.test" :view="bench.view" />
      <p v-if="bench.view?.station?.overdue" class="flag">
        {{
          t('bench.the-calibration-of-is-overdue', { instrument: bench.view.station.instrument })
        }}
      </p>
      <PhotoStrip
        v-if="bench.current"
        :key="bench.current.id"
        :specimen-id="bench.current.id"
        :label="bench.current.label"
        :released="bench.test.released"
      />
      <BenchFoot
        v-if="bench.view"
        ref="foot"
        :view="bench.view"
        :recorded="bench.recorded"
        :job-id="id"
        :filed="bench.canFile"
        @file="bench.bringIn"
        @simulate="bench.simulate"
        @station="bench.stationId = $event"
      />
    </aside>
    <BenchDialogs
      ref="dialogs"
      :label="bench.current?.label ?? ''"
      :working="bench.recorded.working.value"
      :departing="bench.departing"
      :filing="bench.departingFile"
      :suspicions="bench.view?.suspicions ?? []"
      @accept="go({})"
      @take-back="bench.takeBack"
    />
  </div>
</template>

<style scoped src="./bench-page.css"></style>
