import { t } from '@/ui/words'
import { ref } from 'vue'
import { sentence } from '@/api/client'

/** Something that was just done, and the way back from it. */
export interface UndoOffer {
  text: string
  /** Take it back; thrown refusals are shown in the place of the offer. */
  undo: () => Promise<unknown>
}

const OFFERED_FOR_MS = 60_000
const SHOWN_FOR_MS = 6_000
const offer = ref<UndoOffer | null>(null)
const outcome = ref('')
const busy = ref(false)
let timer: ReturnType<typeof setTimeout> | undefined

function clearAfter(ms: number) {
  clearTimeout(timer)
  timer = setTimeout(() => {
    offer.value = null
    outcome.value = ''
  }, ms)
}

/** Offer to undo what was done last, for a minute; a newer offer takes the place of an older one. */
export function offerUndo(text: string, undo: () => Promise<unknown>) {
  offer.value = { text, undo }
  outcome.value = ''
  clearAfter(OFFERED_FOR_MS)
}

/** The offer that stands, what came of it, and the two things that can be done with it. */
export function useUndo() {
  async function undo() {
    if (!offer.value || busy.value) return
    const { text, undo: takeBack } = offer.value
    busy.value = true
    try {
      await takeBack()
      outcome.value = t('ui.undone', { text })
    } catch (error) {
      outcome.value = sentence(error)
    } finally {
      busy.value = false
      offer.value = null
      clearAfter(SHOWN_FOR_MS)
    }
  }
  function dismiss() {
    clearAfter(0)
  }
  return { offer, outcome, busy, undo, dismiss }
}
