import { t } from '@/ui/words'
import { ref, type ComputedRef } from 'vue'
import { ask, client, type SpecimenView } from '@/api/client'
import type { useAct } from '@/api/queries'
import { upload } from '@/api/upload'
import { offerUndo } from '@/ui/undo'
import type { BenchView } from '@/bench/bench'

/** What can be done with a specimen beside its next step: voids, files, a stand-in's faults. */
export function useSpecimenActs(
  { act, refused, refusedFor }: ReturnType<typeof useAct>,
  current: ComputedRef<SpecimenView | null>,
  view: ComputedRef<BenchView | null>,
) {
  const path = () => ({ path: { specimen_id: current.value!.id } })
  /** A file that would depart from a rule: why is asked, then it is brought in again. */
  const departingFile = ref<{ text: string; go: (why: string) => void } | null>(null)

  async function voidWith(code: string, remark: string) {
    const { label } = current.value!
    const params = path()
    const isVoid = await act(() =>
      ask(client.POST('/api/specimens/{specimen_id}/void', { params, body: { code, remark } })),
    )
    const body = { reason: t('bench.voided-by-mistake') }
    if (isVoid)
      offerUndo(t('bench.voided', { label }), () =>
        ask(client.POST('/api/specimens/{specimen_id}/void/withdraw', { params, body })),
      )
    return isVoid
  }
  const takeBack = (reason: string) =>
    act(() =>
      ask(
        client.POST('/api/specimens/{specimen_id}/void/withdraw', {
          params: path(),
          body: { reason },
        }),
      ),
    )
  async function bringIn(file: File, deviation: string | null = null) {
    const id = current.value!.id
    const taken = await act(() => upload(`/api/specimens/${id}/trace`, { file, deviation }))
    if (taken || deviation || refusedFor.value !== 'needs-reason') return
    const text = refused.value
    refused.value = ''
    departingFile.value = { text, go: (why) => void bringIn(file, why) }
  }
  const simulate = (fault: string) =>
    act(() =>
      ask(
        client.POST('/api/stations/{station_id}/simulation', {
          params: { path: { station_id: view.value!.station!.id } },
          body: { fault },
        }),
      ),
    )
  /** What was seen of a specimen that still counts; or was not, after all. */
  const note = (code: string, seen: boolean) =>
    act(() =>
      ask(
        client.POST('/api/specimens/{specimen_id}/note', {
          params: { path: { specimen_id: current.value!.id } },
          body: { code, seen },
        }),
      ),
    )
  return {
    voidWith,
    note,
    takeBack,
    bringIn: (file: File) => void bringIn(file),
    simulate,
    departingFile,
  }
}
