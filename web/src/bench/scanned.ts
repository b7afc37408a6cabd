import { ref, type ComputedRef, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client, sentence, type SpecimenView } from '@/api/client'
import { useScans } from '@/app/scanning'

/** A label that is scanned at the bench: what it means while a specimen is in hand, the server says. */
export function useBenchScans(
  current: ComputedRef<SpecimenView | null>,
  jobId: number,
  picked: Ref<number | null>,
) {
  const router = useRouter()
  const scanSays = ref('')
  async function read(code: string) {
    if (!current.value) return
    try {
      const scan = await ask(
        client.GET('/api/specimens/{specimen_id}/bench/scanned/{code}', {
          params: { path: { specimen_id: current.value.id, code } },
        }),
      )
      if (scan.specimen_id === null) scanSays.value = scan.text
      else if (scan.job_id === jobId) {
        scanSays.value = ''
        picked.value = scan.specimen_id
      } else await router.push(`/bench/${scan.job_id}?specimen=${scan.specimen_id}`)
    } catch (error) {
      scanSays.value = sentence(error)
    }
  }
  useScans((code) => void read(code))
  return scanSays
}
