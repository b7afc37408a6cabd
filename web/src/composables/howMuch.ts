import { ref, watch, type Ref } from 'vue'
import { ask, client, sentence, type Schemas } from '@/api/client'

export type HowMuch = Schemas['HowMuchView']
type Asked = Schemas['HowMuchAsked']
const WAIT_MS = 450

/** The least length for what is asked for, found again shortly after it changes. */
export function useHowMuch(asked: Ref<Asked | null>) {
  const found = ref<HowMuch | null>(null)
  const says = ref('')
  const looking = ref(false)
  let timer = 0
  let turn = 0

  async function look(body: Asked) {
    const mine = ++turn
    looking.value = true
    try {
      const told = await ask(client.POST('/api/how-much', { body }))
      if (mine === turn) [found.value, says.value] = [told, '']
    } catch (error) {
      if (mine === turn) [found.value, says.value] = [null, sentence(error)]
    } finally {
      if (mine === turn) looking.value = false
    }
  }

  watch(
    () => JSON.stringify(asked.value),
    () => {
      window.clearTimeout(timer)
      const body = asked.value
      if (!body) {
        turn += 1
        found.value = null
        says.value = ''
        looking.value = false
      } else timer = window.setTimeout(() => void look(body), WAIT_MS)
    },
    { immediate: true },
  )
  return { found, says, looking }
}
