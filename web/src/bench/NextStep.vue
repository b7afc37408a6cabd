<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import StepAnswers from '@/bench/StepAnswers.vue'
import StepFields from '@/bench/StepFields.vue'
import { useStepForm, type StepValues } from '@/bench/stepForm'
import ActButton from '@/ui/ActButton.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { stretch } from '@/ui/phrases'

/** The one next action at the bench, and why; what it asks for is typed, or read off a gauge. */
const props = defineProps<{
  step: Schemas['StepView']
  also: Schemas['StepView'][]
  proposals: Schemas['ProposalView'][]
  specimenId: number
  gauges: Schemas['GaugeView'][]
  shows: Schemas['ShownView'][]
  device: string
  serial: string
  busy: boolean
}>()
const emit = defineEmits<{
  go: [values: StepValues, requested?: string, read?: Record<string, string>]
  examine: []
  propose: [proposal: Schemas['ProposalView']]
}>()
const form = useStepForm({
  step: () => props.step,
  also: () => props.also,
  specimenId: () => props.specimenId,
})
const {
  chosen,
  step: shown,
  typed,
  draft,
  answers,
  fields,
  take,
  read,
  left,
  isHeld,
  isShut,
  isEarly,
} = form

function answer(choice: string) {
  emit('go', { [answers.value!.name]: choice }, form.requested())
}
function send() {
  if (!answers.value) emit('go', form.values.value, form.requested(), form.readFrom())
}
/** Enter does what the person just looked at: a suspect is examined first, never accepted. */
function go() {
  if (isHeld.value) return
  if (shown.value.kind === 'suspect') emit('examine')
  else send()
}
function beside(other: Schemas['StepView']) {
  if (other.asks.length) chosen.value = other.act
  else emit('go', {}, other.act)
}
defineExpose({ go })
</script>

<template>
  <form class="next" :class="{ hold: shown.hold }" :data-step="shown.title" @submit.prevent="go">
    <h2>{{ shown.title }}</h2>
    <p class="quiet">{{ shown.why }}</p>
    <p v-if="shown.caution" class="caution small">{{ shown.caution }}</p>
    <p v-for="proposal in proposals" :key="proposal.name" class="proposal">
      <ActButton type="button" :disabled="busy" @click="$emit('propose', proposal)">
        <i18n-t keypath="bench.set-to" scope="global"
          ><template #title>{{ proposal.title }}</template
          ><template #value
            ><b class="mono">{{ proposal.value }}</b></template
          ><template #unit>{{ proposal.unit }}</template></i18n-t
        >
      </ActButton>
    </p>
    <DraftNote :draft="draft" />
    <StepFields
      v-if="fields.length"
      :key="`${shown.act} ${shown.title}`"
      v-model="typed"
      :fields="fields"
      :gauges="gauges"
      :shows="shows"
      :device="device"
      :read="read"
      @take="(name, value) => take(name, value, serial)"
    />
    <template v-if="!chosen">
      <div
        v-for="other in also.filter((each) => each.kind !== 'end')"
        :key="other.act"
        class="beside"
      >
        <ActButton type="button" :disabled="busy" :title="other.why" @click="beside(other)">
          {{ other.button }}
        </ActButton>
      </div>
    </template>
    <StepAnswers
      v-if="answers"
      :title="answers.title"
      :choices="answers.choices"
      :disabled="busy || isShut"
      @answer="answer"
    />
    <template v-if="isShut">
      <p class="held" role="timer">
        <i18n-t keypath="bench.in" scope="global"
          ><template #button>{{ shown.button }}</template
          ><template #time
            ><b class="mono">{{ stretch(left) }}</b></template
          ></i18n-t
        >
      </p>
      <ActButton
        type="button"
        kind="link"
        :disabled="busy"
        @click="answers ? (isEarly = true) : send()"
      >
        {{ t('bench.continue-now-with-a-reason') }}
      </ActButton>
    </template>
    <ActButton
      v-else-if="!answers && shown.kind === 'suspect'"
      kind="main"
      type="button"
      :disabled="busy"
      @click="$emit('examine')"
    >
      {{ t('bench.examine-the-trace') }} <kbd>{{ t('bench.enter') }}</kbd>
    </ActButton>
    <ActButton
      v-else-if="!answers"
      :kind="shown.kind === 'watch' ? 'stop' : 'main'"
      :disabled="busy"
    >
      {{ shown.button }} <kbd>{{ shown.kind === 'watch' ? 'Esc' : 'Enter' }}</kbd>
    </ActButton>
    <ActButton v-if="chosen" type="button" kind="link" @click="chosen = null">{{
      t('bench.cancel')
    }}</ActButton>
    <div
      v-for="other in also.filter((each) => each.kind === 'end')"
      :key="other.act"
      class="beside ending"
    >
      <ActButton type="button" :disabled="busy" :title="other.why" @click="beside(other)">
        {{ other.button }}
      </ActButton>
    </div>
  </form>
</template>

<style scoped>
.next {
  display: grid;
  gap: 8px;
}

h2 {
  font-size: 21px;
}

.caution {
  padding-left: 10px;
  border-left: 5px solid var(--brick);
}

.held {
  padding: 10px 14px;
  border: 2px dashed var(--ink-3);
  border-radius: 8px;
  font-size: 18px;
}

.next > .act {
  margin-top: 4px;
  padding: 9px 16px;
  text-align: left;
}
</style>
