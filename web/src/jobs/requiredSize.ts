import { watchDebounced } from '@vueuse/core'
import { onScopeDispose, ref, watch, type Ref } from 'vue'
import { ask, client, sentence, type Schemas } from '@/api/client'

export type RequiredSize = Schemas['RequiredSizeView']
type Asked = Schemas['RequiredSizeRequest']
const WAIT_MS = 450

/** The least length for what is asked for, found again shortly after it changes. */
export function useRequiredSize(requested: Ref<Asked | null>) {
  const requiredSize = ref<RequiredSize | null>(null)
  const mistake = ref('')
  const looking = ref(false)
  let turn = 0
  let left = false
  onScopeDispose(() => (left = true))

  async function look(body: Asked) {
    const mine = ++turn
    looking.value = true
    try {
      const answer = await ask(client.POST('/api/required-sample-size', { body }))
      if (mine === turn) [requiredSize.value, mistake.value] = [answer, '']
    } catch (error) {
      if (mine === turn) [requiredSize.value, mistake.value] = [null, sentence(error)]
    } finally {
      if (mine === turn) looking.value = false
    }
  }

  const asJson = () => JSON.stringify(requested.value)
  watch(asJson, () => {
    if (requested.value) return
    turn += 1
    requiredSize.value = null
    mistake.value = ''
    looking.value = false
  })
  watchDebounced(asJson, () => !left && requested.value && void look(requested.value), {
    debounce: WAIT_MS,
    immediate: true,
  })
  return { requiredSize, mistake, looking }
}
