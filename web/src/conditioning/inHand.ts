import { t } from '@/ui/words'
import { ref } from 'vue'
import { ask, client, sentence } from '@/api/client'
import { useScans } from '@/app/scanning'

export interface InHand {
  id: number
  code: string
  label: string
}

/** The specimens that were scanned or typed, and are in somebody's hands until they are placed. */
export function useInHand() {
  const inHand = ref<InHand[]>([])
  const scanSays = ref('')

  async function scan(code: string) {
    scanSays.value = ''
    const requested = code.trim().split('/').pop()!
    if (!requested || inHand.value.some((specimen) => specimen.code === requested.toUpperCase()))
      return
    try {
      const answer = await ask(
        client.GET('/api/specimens/by-code/{code}', { params: { path: { code: requested } } }),
      )
      if (!answer) scanSays.value = t('conditioning.no-specimen-has-the-code', { requested })
      else {
        const { id, code, label } = answer.specimen
        inHand.value.push({ id, code, label })
      }
    } catch (error) {
      scanSays.value = sentence(error)
    }
  }
  function putDown() {
    inHand.value = []
  }
  useScans((code) => void scan(code))
  return { inHand, scanSays, scan, putDown }
}
