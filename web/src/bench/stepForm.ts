import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useNow } from '@/app/clock'
import { useDraft } from '@/ui/drafts'
import { figureFrom } from '@/ui/numbers'

type Step = Schemas['StepView']
export type StepValues = Record<string, number | string | null>

const MAX_BUTTONS = 9

/** The form of the step that is shown: what is typed, what a gauge or the device gave, what is sent. */
export function useStepForm(shown: {
  step: () => Step
  also: () => Step[]
  specimenId: () => number
}) {
  /** An action beside the next one that asks for values: its form takes the place of the step. */
  const chosen = ref<string | null>(null)
  const step = computed(
    () => shown.also().find((beside) => beside.act === chosen.value) ?? shown.step(),
  )
  const typed = reactive<Record<string, string>>({})
  /** What a value was read off, while nobody has typed another in its place. */
  const readOff = new Map<string, { text: string; serial: string }>()
  /** The answers of a held step open once the person says that a reason follows. */
  const isEarly = ref(false)

  /** What is typed for a step is kept until the step is over; an instrument's value becomes a typed one. */
  const draft = useDraft(
    () => `step/${shown.specimenId()}/${step.value.act}/${step.value.title}`,
    () => typed,
    (kept) => Object.assign(typed, kept),
  )
  watch(
    () => shown.step().act,
    () => (chosen.value = null),
  )
  /** A preset value stands in its field already; a new turn begins anew. */
  watch(
    () => `${step.value.act} ${step.value.title}`,
    () => {
      draft.saved()
      for (const name of Object.keys(typed)) delete typed[name]
      readOff.clear()
      isEarly.value = false
      for (const field of step.value.asks)
        if (field.preset !== null) typed[field.name] = String(field.preset)
      draft.begin()
    },
    { immediate: true },
  )

  /** A question with few answers and nothing beside it: each answer is a button. */
  const answers = computed(() => {
    const [field] = step.value.asks
    const isAlone = step.value.asks.length === 1 && field?.kind === 'choice'
    return isAlone && field.choices.length <= MAX_BUTTONS ? field : null
  })
  const fields = computed(() => (answers.value ? [] : step.value.asks))

  /** Enter a value that was read off an instrument; a list grows by it. */
  function take(name: string, value: string, serial: string) {
    const isList = step.value.asks.find((field) => field.name === name)?.kind === 'numbers'
    const text = isList && typed[name] ? `${typed[name]} ${value}` : value
    typed[name] = text
    readOff.set(name, { text, serial })
  }
  async function read(name: string, gaugeId: number) {
    const answer = await ask(
      client.POST('/api/gauges/{gauge_id}/read', {
        params: { path: { gauge_id: gaugeId } },
        body: { specimen_id: shown.specimenId(), field: name },
      }),
    )
    take(name, String(answer.value), answer.gauge)
  }

  /** What is sent: numbers as numbers, an empty field as null. */
  const values = computed<StepValues>(() =>
    Object.fromEntries(
      step.value.asks.map((field) => {
        const text = (typed[field.name] ?? '').trim()
        if (!text) return [field.name, null]
        if (field.kind !== 'number') return [field.name, text]
        const number = figureFrom(text)
        return [field.name, Number.isFinite(number) ? number : text]
      }),
    ),
  )
  const readFrom = () =>
    Object.fromEntries(
      [...readOff]
        .filter(([name, read]) => typed[name] === read.text)
        .map(([name, read]) => [name, read.serial]),
    )

  const now = useNow()
  /** A clock that matters holds the key until it has run; earlier it takes a reason. */
  const left = computed(() =>
    step.value.held_until ? Date.parse(step.value.held_until) - now.value : 0,
  )
  const isHeld = computed(() => left.value > 0)
  const isShut = computed(() => isHeld.value && !isEarly.value)
  const requested = () => (chosen.value ? step.value.act : undefined)

  return {
    chosen,
    step,
    typed,
    draft,
    answers,
    fields,
    take,
    read,
    values,
    readFrom,
    left,
    isHeld,
    isShut,
    isEarly,
    requested,
  }
}
