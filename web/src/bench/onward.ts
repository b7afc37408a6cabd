import { computed, type ComputedRef } from 'vue'
import type { Router } from 'vue-router'
import type { Schemas, SpecimenView } from '@/api/client'
import type { useJob } from '@/api/queries'
import { placeOf } from '@/app/router'

interface Onward {
  text: string
  to: string
}

/** Where to go once nothing is left to do at the bench. */
export function useOnward(
  job: ReturnType<typeof useJob>,
  suggested: ComputedRef<SpecimenView | null>,
) {
  return computed<Onward | null>(() => {
    const known = job.data.value
    if (!known || suggested.value || known.next_screen === 'bench') return null
    return { text: known.next_text, to: placeOf(known.next_screen, known.id) }
  })
}

/** The key of the next step: Enter does it, Escape stops what is watched. */
export function onwardKeys(
  step: Schemas['StepView'] | null,
  onward: Onward | null,
  go: () => void,
  router: Router,
) {
  if (step) return [{ key: step.kind === 'watch' ? 'Escape' : 'Enter', text: step.button, act: go }]
  if (!onward) return []
  return [{ key: 'Enter', text: onward.text, act: () => void router.push(onward.to) }]
}
