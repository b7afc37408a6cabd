import { computed, ref } from 'vue'
import type { useJob } from '@/api/queries'

const URGENT = ['running', 'to-look-at', 'ready', 'conditioning', 'cut']

/** Which test and which specimen is in hand: the one that was picked, or the most urgent. */
export function useHand(job: ReturnType<typeof useJob>, first: number | null) {
  const picked = ref<number | null>(first)
  const testId = ref<number | null>(null)
  const tests = computed(() => job.data.value?.tests.filter((test) => test.at_frame) ?? [])
  const test = computed(
    () =>
      tests.value.find((test) => test.specimens.some((s) => s.id === picked.value)) ??
      tests.value.find((test) => test.id === testId.value) ??
      tests.value.find((test) => test.to_go > 0) ??
      tests.value[0] ??
      null,
  )
  const specimens = computed(() => test.value?.specimens ?? [])
  const suggested = computed(() => {
    const open = specimens.value.filter(
      (specimen) => specimen.called && URGENT.includes(specimen.state),
    )
    return open.sort((a, b) => URGENT.indexOf(a.state) - URGENT.indexOf(b.state))[0] ?? null
  })
  const current = computed(
    () =>
      specimens.value.find((specimen) => specimen.id === picked.value) ??
      suggested.value ??
      specimens.value.find((specimen) => specimen.state === 'tested') ??
      null,
  )
  const isNext = computed(() => current.value !== null && current.value.id === suggested.value?.id)
  return { tests, test, current, suggested, isNext, picked, testId }
}
