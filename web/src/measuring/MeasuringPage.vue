<script setup lang="ts">
import { t } from '@/ui/words'
import ReadingField from '@/measuring/ReadingField.vue'
import { nextTick, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import GrammageForm from '@/measuring/GrammageForm.vue'
import MeasuredOutline from '@/measuring/MeasuredOutline.vue'
import MeasuredSlips from '@/measuring/MeasuredSlips.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import { useMeasuring } from '@/measuring/measuring'
import SizesTable from '@/measuring/SizesTable.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import { useKeys } from '@/ui/keys'
import SimulationField from '@/ui/SimulationField.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import StateNote from '@/ui/StateNote.vue'

/** One reading, one Enter: the place on the outline is lit, and what is odd is said at once. */
const props = defineProps<{ id: number }>()
const router = useRouter()
const field = ref<{ focus(): void } | null>(null)
const {
  query,
  view,
  specimens,
  measured,
  current,
  picked,
  place,
  typed,
  refused,
  waits,
  busy,
  masses,
  round,
  hasRound,
  sizes,
  at,
  size,
  gauge,
  balance,
  remarks,
  allDone,
  enter,
  readGauge,
  takeBack,
  step,
  weighBlanks,
  chooseRule,
  readBalance,
  simulate,
} = useMeasuring(
  props.id,
  Number(useRoute().query.specimen) || null,
  () => void nextTick(() => field.value?.focus()),
  (path) => void router.push(path),
)
useKeys(() => [
  { key: ' ', text: t('measuring.read-the-gauge'), act: readGauge },
  { key: 'Enter', text: t('measuring.record-the-reading'), act: enter },
  { key: 'Backspace', text: t('measuring.undo-the-last-reading'), act: takeBack },
  { key: 'ArrowRight', text: t('measuring.the-next-specimen'), act: () => step(1) },
  { key: 'ArrowLeft', text: t('measuring.the-previous-specimen'), act: () => step(-1) },
])
</script>

<template>
  <FromRecord v-if="!query.data.value" :query="query" />
  <div v-else-if="view" class="measuring">
    <header>
      <div>
        <p class="mono small quiet">
          <router-link :to="`/jobs/${view.job_id}`">{{ view.job_number }}</router-link> ·
          {{ view.product }}
        </p>
        <h1>{{ t('measuring.measure', { title: view.title }) }}</h1>
      </div>
      <p class="mono done">
        <b>{{ measured }}</b><span class="quiet">{{
          t('measuring.measured', { specimens: specimens.length })
        }}</span>
      </p>
    </header>
    <StateNote
      v-if="!specimens.length || (!specimens[0]!.sizes.length && !view.weighs)"
      :title="t('measuring.no-dimensions-for-this-test')"
      :text="t('measuring.the-results-need-no-dimensions-of-the')"
    >
      <ActButton :to="`/jobs/${view.job_id}`">{{ t('measuring.back-to-job') }}</ActButton>
    </StateNote>
    <template v-else>
      <MeasuredSlips
        :specimens="specimens"
        :current="current?.id ?? null"
        @pick="picked = $event"
      />
      <div v-if="current && specimens[0]!.sizes.length" class="halves">
        <MeasuredOutline
          :view="view"
          :sizes="sizes"
          :at="current.open ? at : null"
          @pick="(name, number) => (place = { field: name, place: number })"
        />
        <section>
          <p v-if="!current.open" class="closed-note">
            {{
              t('measuring.its-dimensions-can-no-longer-be-changed', {
                label: current.label,
                why_closed: current.why_closed,
              })
            }}
          </p>
          <template v-else>
            <v-checkbox
              v-if="hasRound"
              v-model="round"
              :label="t('measuring.round-specimen-diameter')"
            />
            <p class="requested">
              <b class="mono">{{ current.label }}</b>
              <template v-if="at && size">
                {{ size.title }}
                <span class="quiet">{{
                  t('measuring.of', { place: at.place + 1, places_mm: size.places_mm.length })
                }}</span>
              </template>
              <template v-else> {{ t('measuring.is-measured') }} </template>
            </p>
            <ReadingField
              ref="field"
              v-model="typed"
              :label="size ? t('measuring.in-mm', { title: size.title }) : t('measuring.reading')"
              :act="at ? t('measuring.record-reading') : t('measuring.next')"
              :busy="busy"
              @enter="enter"
              @gauge="readGauge"
              @back="takeBack"
            />
            <div class="row">
              <ActButton v-if="gauge && at" type="button" :disabled="busy" @click="readGauge">
                {{ t('measuring.read', { name: gauge.name.toLowerCase() }) }}
                <kbd>{{ t('measuring.space') }}</kbd>
              </ActButton>
              <ActButton type="button" :disabled="busy" @click="takeBack">
                {{ t('measuring.undo') }} <kbd>⌫</kbd>
              </ActButton>
              <span v-if="gauge?.overdue" class="bad small">{{
                t('measuring.its-calibration-is-overdue')
              }}</span>
            </div>
          </template>
          <RefusalNote v-model="refused" />
          <div v-if="remarks.length" class="warned" role="alert">
            <p v-for="(remark, number) in remarks" :key="number">
              <b>{{ remark.title }}:</b> {{ remark.text }}
            </p>
            <p class="quiet small">
              {{ t('measuring.click-the-position-on-the-outline-to') }}
            </p>
          </div>
          <SizesTable
            :specimen="current"
            :sizes="sizes"
            :rule="view.area_rule"
            :changeable="view.may_change_area_rule"
            :busy="busy"
            @rule="chooseRule"
          />
          <p v-if="allDone" class="quiet">
            {{ t('measuring.every-specimen-is-measured') }}
            <router-link :to="`/bench/${view.job_id}`">{{
              t('measuring.go-to-bench')
            }}</router-link>
          </p>
          <SimulationField
            v-if="gauge?.simulated"
            class="simulated"
            :kind="gauge.kind"
            :label="t('measuring.how-the-simulated-gauge-behaves')"
            @simulate="simulate"
          />
        </section>
      </div>
      <GrammageForm
        v-if="view.weighs"
        v-model="masses"
        :view="view"
        :balanced="balance !== null"
        :busy="busy"
        @weighed="weighBlanks"
        @read="readBalance"
      />
      <RefusalNote v-if="!specimens[0]!.sizes.length" v-model="refused" />
    </template>
    <ReasonDialog
      :model-value="waits !== null"
      :title="t('measuring.change-dimensions-after-the-test')"
      :text="t('measuring.a-result-was-computed-with-the-old')"
      :act="t('measuring.change-it')"
      @update:model-value="waits = null"
      @given="(reason) => waits?.(reason)"
    />
  </div>
</template>

<style scoped>
header {
  display: flex;
  align-items: end;
  justify-content: space-between;
}

.done b {
  font-size: 24px;
}

.halves {
  display: grid;
  grid-template-columns: minmax(240px, 0.8fr) minmax(0, 1.3fr);
  gap: 34px;
}

.halves > svg {
  max-height: calc(100dvh - 330px);
}

section {
  display: grid;
  gap: 12px;
  align-content: start;
}

.requested {
  font-size: 22px;
}

.requested b {
  margin-right: 8px;
  font-size: 30px;
}

.round {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 36px;
}

.closed-note {
  padding: 9px 14px;
  background: var(--sunk);
}

@media (max-width: 900px) {
  .halves {
    grid-template-columns: 1fr;
  }
}

.simulated {
  max-width: 340px;
}
</style>
