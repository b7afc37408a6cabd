import { computed, ref } from 'vue'
import { ask, client, type Schemas, type SheetView } from '@/api/client'

type Laid = Schemas['LaidRequest']
type Area = Schemas['AreaRequest']
const MOST = 50

interface Step {
  laid: Laid[]
  areas: Area[]
}

/** Where everything lay before each change of this desk, so that a change can be taken back. */
export function useSheetHistory(jobId: number) {
  const steps = ref<Step[]>([])

  function remember(sheet: SheetView) {
    steps.value = [...steps.value, stepOf(sheet)].slice(-MOST)
  }

  /** Put everything back to where it lay before the last change; only what differs is sent. */
  async function takeBack(sheet: SheetView): Promise<void> {
    const step = steps.value[steps.value.length - 1]
    if (!step) return
    const params = { path: { job_id: jobId } }
    const now = stepOf(sheet)
    let revision = sheet.revision
    if (JSON.stringify(now.areas) !== JSON.stringify(step.areas)) {
      const body = { areas: step.areas, revision }
      revision = (await ask(client.PUT('/api/jobs/{job_id}/sheet/areas', { params, body })))
        .revision
    }
    const there = new Map(
      now.laid.map((specimen) => [specimen.specimen_id, JSON.stringify(specimen)]),
    )
    const laid = step.laid.filter(
      (specimen) => there.get(specimen.specimen_id) !== JSON.stringify(specimen),
    )
    if (laid.length)
      await ask(client.PUT('/api/jobs/{job_id}/sheet/layout', { params, body: { laid, revision } }))
    steps.value = steps.value.slice(0, -1)
  }

  return { remember, takeBack, canTakeBack: computed(() => steps.value.length > 0) }
}

function stepOf(sheet: SheetView): Step {
  return {
    laid: sheet.specimens.map((specimen) => ({
      specimen_id: specimen.id,
      x_mm: specimen.x_mm,
      y_mm: specimen.y_mm,
      long_side: specimen.long_side as Laid['long_side'],
      locked: specimen.locked,
    })),
    areas: sheet.avoided.map((area) => ({
      reason: area.reason,
      corners: area.corners.map(({ x, y }) => [x, y] as [number, number]),
    })),
  }
}
