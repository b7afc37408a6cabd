import { ref, type ComputedRef } from 'vue'
import { ask, client, type SheetView } from '@/api/client'
import { BAND_MM, type AreaTool, type Spot } from '@/cutting/areas'

type Area = { reason: string; corners: [number, number][] }

/** Mark the areas of a sheet that nothing is cut from, and take the marks away again. */
export function useMarking(
  sheet: ComputedRef<SheetView | null>,
  change: (work: () => Promise<unknown>) => Promise<boolean>,
) {
  const tool = ref<AreaTool | null>(null)
  const reason = ref('crease')
  const bandMm = ref(String(BAND_MM))

  function areas(): Area[] {
    return (sheet.value?.avoided ?? []).map((area) => ({
      reason: area.reason,
      corners: area.corners.map(({ x, y }) => [x, y]),
    }))
  }
  function storeAreas(list: Area[]) {
    return change(() =>
      ask(
        client.PUT('/api/jobs/{job_id}/sheet/areas', {
          params: { path: { job_id: sheet.value!.job_id } },
          body: { areas: list, revision: sheet.value!.revision },
        }),
      ),
    )
  }
  async function mark(corners: Spot[]) {
    const named = reason.value.trim() || 'marked'
    const drawnWith = tool.value
    tool.value = null
    const kept = await storeAreas([
      ...areas(),
      { reason: named, corners: corners.map(({ x, y }) => [x, y]) },
    ])
    if (!kept) tool.value = drawnWith
  }
  function unmark(place: number) {
    return storeAreas(areas().filter((_, other) => other !== place))
  }
  return { tool, reason, bandMm, mark, unmark }
}
