<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { useNow } from '@/app/clock'
import ActButton from '@/ui/ActButton.vue'
import BurnCodes from '@/bench/BurnCodes.vue'
import { isTyping } from '@/ui/keys'
import { figureFrom } from '@/ui/numbers'
import { stretch } from '@/ui/words'
import RefusalNote from '@/ui/RefusalNote.vue'

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
  go: [
    values: Record<string, number | string | null>,
    wanted?: string,
    read?: Record<string, string>,
  ]
  examine: []
  propose: [proposal: Schemas['ProposalView']]
}>()
const MOST_BUTTONS = 9
const now = useNow()
const { act, refused, busy: reading } = useAct()
/** An action beside the next one that asks for values: its form takes the place of the step. */
const chosen = ref<string | null>(null)
const step = computed(() => props.also.find((beside) => beside.act === chosen.value) ?? props.step)
const typed = reactive<Record<string, string>>({})
/** What a value was read off, while nobody has typed another in its place. */
const readOff = new Map<string, { text: string; serial: string }>()
function take(name: string, value: string, serial: string) {
  const isList = step.value.asks.find((asked) => asked.name === name)?.kind === 'numbers'
  const text = isList && typed[name] ? `${typed[name]} ${value}` : value
  typed[name] = text
  readOff.set(name, { text, serial })
}
const readFrom = () =>
  Object.fromEntries(
    [...readOff]
      .filter(([name, read]) => typed[name] === read.text)
      .map(([name, read]) => [name, read.serial]),
  )
const first = ref<HTMLInputElement[]>([])
watch(
  () => props.step.act,
  () => (chosen.value = null),
)
/** The answers of a held step open once the person says that a reason follows. */
const isEarly = ref(false)
/** A preset value stands in its field already; a new turn begins anew. */
watch(
  () => `${step.value.act} ${step.value.title}`,
  () => {
    for (const name of Object.keys(typed)) delete typed[name]
    readOff.clear()
    isEarly.value = false
    for (const asked of step.value.asks)
      if (asked.preset !== null) typed[asked.name] = String(asked.preset)
  },
  { immediate: true },
)
/** A question with few answers and nothing beside it: each answer is a button. */
const answers = computed(() => {
  const [asked] = step.value.asks
  const isAlone = step.value.asks.length === 1 && asked?.kind === 'choice'
  return isAlone && asked.choices.length <= MOST_BUTTONS ? asked : null
})
/** Grades are picked on a scale of their steps; the grey scale in the light box decides. */
const isScale = computed(
  () => answers.value?.choices.every((choice) => /^\d(-\d)?$/.test(choice)) ?? false,
)
const fields = computed(() => (answers.value ? [] : step.value.asks))
function answer(choice: string) {
  emit('go', { [answers.value!.name]: choice }, wanted())
}
const wanted = () => (chosen.value ? step.value.act : undefined)
watch(first, (fields) => fields[0]?.focus(), { flush: 'post', deep: true, once: true })

const values = computed(() =>
  Object.fromEntries(
    step.value.asks.map((asked) => {
      const text = (typed[asked.name] ?? '').trim()
      if (!text) return [asked.name, null]
      if (asked.kind !== 'number') return [asked.name, text]
      const number = figureFrom(text)
      return [asked.name, Number.isFinite(number) ? number : text]
    }),
  ),
)
/** What the device at the station reads now, for a field that is a number. */
const shownFor = (name: string) =>
  props.shows.find((shown) => shown.name === name && typeof shown.value === 'number')
const gaugeFor = (kind: string) => props.gauges.find((gauge) => gauge.kind === kind)

async function read(name: string, kind: string) {
  await act(async () => {
    const answer = await ask(
      client.POST('/api/gauges/{gauge_id}/read', {
        params: { path: { gauge_id: gaugeFor(kind)!.id } },
        body: { specimen_id: props.specimenId, field: name },
      }),
    )
    take(name, String(answer.value), answer.gauge)
  })
}
/** A clock that matters holds the key until it has run; earlier it takes a reason. */
const left = computed(() =>
  step.value.held_until ? Date.parse(step.value.held_until) - now.value : 0,
)
const isHeld = computed(() => left.value > 0)
const isShut = computed(() => isHeld.value && !isEarly.value)
const send = () => {
  if (!answers.value) emit('go', values.value, wanted(), readFrom())
}
/** Enter does what the person just looked at: a suspect is examined first, never accepted. */
const go = () => {
  if (isHeld.value) return
  if (step.value.kind === 'suspect') emit('examine')
  else send()
}
function beside(other: Schemas['StepView']) {
  if (other.asks.length) chosen.value = other.act
  else emit('go', {}, other.act)
}
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const choice = answers.value?.choices[Number(event.key) - 1]
  if (!choice || props.busy || isShut.value || event.ctrlKey || event.altKey || event.metaKey)
    return
  if (event.repeat || isTyping(event)) return
  event.preventDefault()
  answer(choice)
})
defineExpose({ go })
</script>

<template>
  <form class="next" :class="{ hold: step.hold }" :data-step="step.title" @submit.prevent="go">
    <h2>{{ step.title }}</h2>
    <p class="quiet">{{ step.why }}</p>
    <p v-if="step.caution" class="caution small">{{ step.caution }}</p>
    <p v-for="proposal in proposals" :key="proposal.name" class="proposal">
      <ActButton type="button" :disabled="busy" @click="$emit('propose', proposal)">
        Set {{ proposal.title }} to <b class="mono">{{ proposal.value }}</b> {{ proposal.unit }}
      </ActButton>
    </p>
    <div
      v-for="asked in fields"
      :key="asked.name"
      class="asked"
      :class="{ several: fields.length > 1 }"
    >
      <BurnCodes
        v-if="asked.name === 'code' && Object.keys(asked.words).length"
        v-model="typed[asked.name]"
        :words="asked.words"
        :title="asked.title"
      />
      <v-select
        v-else-if="asked.kind === 'choice'"
        v-model="typed[asked.name]"
        :items="asked.choices.map((value) => ({ value, title: value.replace(/-/g, ' ') }))"
        :label="asked.title"
      />
      <label v-else>
        <span class="small quiet">{{ asked.title }}{{ asked.required ? '' : ', optional' }}</span>
        <span class="typing" :class="{ words: asked.kind !== 'number' }">
          <input
            ref="first"
            v-model="typed[asked.name]"
            class="mono"
            :inputmode="asked.kind === 'text' ? 'text' : 'decimal'"
            autocomplete="off"
          />
          <span class="mono">{{ asked.unit }}</span>
        </span>
      </label>
      <ActButton
        v-if="asked.gauge && gaugeFor(asked.gauge)"
        type="button"
        :disabled="reading"
        @click="read(asked.name, asked.gauge)"
      >
        Read {{ asked.gauge.replace('-', ' ') }}
      </ActButton>
      <ActButton
        v-else-if="shownFor(asked.name)"
        type="button"
        @click="take(asked.name, String(shownFor(asked.name)!.value), serial)"
      >
        {{ device }} shows <b class="mono">{{ shownFor(asked.name)!.value }}</b>
      </ActButton>
    </div>
    <RefusalNote v-model="refused" />
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
    <fieldset v-if="answers" class="answers" :class="{ scale: isScale }">
      <legend class="small quiet">{{ answers.title }}</legend>
      <ActButton
        v-for="(choice, place) in answers.choices"
        :key="choice"
        type="button"
        :disabled="busy || isShut"
        @click="answer(choice)"
      >
        {{ choice.replace(/-(?=[a-z])/g, ' ') }} <kbd>{{ place + 1 }}</kbd>
      </ActButton>
    </fieldset>
    <template v-if="isShut">
      <p class="held" role="timer">
        {{ step.button }} in <b class="mono">{{ stretch(left) }}</b>
      </p>
      <button
        type="button"
        class="plain link"
        :disabled="busy"
        @click="answers ? (isEarly = true) : send()"
      >
        Continue now with a reason
      </button>
    </template>
    <ActButton
      v-else-if="!answers && step.kind === 'suspect'"
      kind="main"
      type="button"
      :disabled="busy"
      @click="$emit('examine')"
    >
      Examine the trace <kbd>Enter</kbd>
    </ActButton>
    <ActButton
      v-else-if="!answers"
      :kind="step.kind === 'watch' ? 'stop' : 'main'"
      :disabled="busy"
    >
      {{ step.button }} <kbd>{{ step.kind === 'watch' ? 'Esc' : 'Enter' }}</kbd>
    </ActButton>
    <button v-if="chosen" type="button" class="plain link" @click="chosen = null">Cancel</button>
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

.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
}

.asked label {
  display: grid;
  gap: 7px;
}

.asked .v-select {
  width: 100%;
}

.typing {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

.typing input {
  width: 150px;
  min-height: 52px;
  padding: 0 12px;
  border: 2px solid var(--blue);
  border-radius: 8px;
  background: var(--page);
  color: var(--ink);
  font-size: 26px;
  text-align: right;
}

.typing.words input {
  width: 100%;
  min-width: 220px;
  font-size: 17px;
  text-align: left;
}

.held {
  padding: 10px 14px;
  border: 2px dashed var(--ink-3);
  border-radius: 8px;
  font-size: 18px;
}

.several .typing:not(.words) input {
  width: 120px;
  min-height: 40px;
  border-width: 1.5px;
  font-size: 19px;
}

.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 0;
  border: 0;
}

.answers .act {
  min-width: 64px;
  padding: 12px 16px;
  font-size: 17px;
}

.scale {
  flex-wrap: nowrap;
  gap: 0;
  padding-top: 12px;
  border-top: 3px solid var(--ink);
}

.scale legend {
  float: left;
}

.scale .act {
  position: relative;
  flex: 1 1 0;
  min-width: 0;
  padding: 12px 0;
  border-radius: 0;
  font-size: 14px;
}

.scale .act::before {
  position: absolute;
  top: -14px;
  left: 50%;
  width: 2px;
  height: 11px;
  background: var(--ink);
  content: '';
}

.scale kbd {
  display: none;
}

.next > .act {
  margin-top: 4px;
  padding: 9px 16px;
  text-align: left;
}
</style>
