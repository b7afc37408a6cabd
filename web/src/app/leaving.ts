import { ref } from 'vue'
import type { Router } from 'vue-router'
import { isAnythingUnsaved } from '@/ui/drafts'

/** The question that is open: whether a form with unsaved entries is left. */
export const leaveQuestion = ref<((leave: boolean) => void) | null>(null)

/** Ask whether a form with unsaved entries is left; true at once where there is none. */
export async function mayLeave(): Promise<boolean> {
  if (!isAnythingUnsaved()) return true
  leaveQuestion.value?.(false)
  const answer = await new Promise<boolean>((resolve) => (leaveQuestion.value = resolve))
  leaveQuestion.value = null
  return answer
}

/** Ask before every change of page, the browser's own buttons included. */
export function askBeforeLeaving(router: Router) {
  router.beforeEach((to, from) => to.fullPath === from.fullPath || mayLeave())
}
