import { watchDebounced } from '@vueuse/core'
import { ref, watch, type Ref } from 'vue'
import { ask, client, sentence, type Schemas } from '@/api/client'

export type HowMuch = Schemas['HowMuchView']
type Asked = Schemas['RequiredSizeRequest']
const WAIT_MS = 450

/** The least length for what is asked for, found again shortly after it changes. */
export function useHowMuch(asked: Ref<Asked | null>) {
  const howMuch = ref<HowMuch | null>(null)
  const says = ref('')
  const looking = ref(false)
  let turn = 0

  async function look(body: Asked) {
    const mine = ++turn
    looking.value = true
    try {
      const answer = await ask(client.POST('/api/required-sample-size', { body }))
      if (mine === turn) [howMuch.value, says.value] = [answer, '']
    } catch (error) {
      if (mine === turn) [howMuch.value, says.value] = [null, sentence(error)]
    } finally {
      if (mine === turn) looking.value = false
    }
  }

  const words = () => JSON.stringify(asked.value)
  watch(words, () => {
    if (asked.value) return
    turn += 1
    howMuch.value = null
    says.value = ''
    looking.value = false
  })
  watchDebounced(words, () => asked.value && void look(asked.value), {
    debounce: WAIT_MS,
    immediate: true,
  })
  return { howMuch, says, looking }
}
