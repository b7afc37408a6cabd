import { onUnmounted, ref, type ComputedRef } from 'vue'
import { ask, client, type SheetView } from '@/api/client'
import { figureFrom } from '@/ui/numbers'

export const PLACING_S = 4

export interface TypedRules {
  end_margin_mm: string
  kerf_mm: string
  clearance_mm: string
}

/** Let the server place everything that is not locked, by the rules as they are typed. */
export function usePlacing(
  sheet: ComputedRef<SheetView | null>,
  change: (work: () => Promise<unknown>) => Promise<boolean>,
) {
  const rules = ref<TypedRules | null>(null)
  /** For how many seconds it has been at it; 0 while it is not. */
  const placing = ref(0)
  let ticking = 0
  onUnmounted(() => window.clearInterval(ticking))

  async function placeAll() {
    const { job_id, revision } = sheet.value!
    placing.value = 0.1
    ticking = window.setInterval(() => (placing.value += 0.1), 100)
    const typed = Object.fromEntries(
      Object.entries(rules.value ?? {})
        .filter(([, text]) => text.trim())
        .map(([name, text]) => [name, figureFrom(text)]),
    )
    await change(() =>
      ask(
        client.POST('/api/jobs/{job_id}/sheet/place', {
          params: { path: { job_id } },
          body: { seconds: PLACING_S, ...typed, revision },
        }),
      ),
    )
    window.clearInterval(ticking)
    placing.value = 0
  }

  function showRules() {
    if (rules.value || !sheet.value) {
      rules.value = null
      return
    }
    const { end_margin_mm, kerf_mm, clearance_mm } = sheet.value
    rules.value = {
      end_margin_mm: String(end_margin_mm),
      kerf_mm: String(kerf_mm),
      clearance_mm: String(clearance_mm),
    }
  }
  return { rules, placing, placeAll, showRules }
}
