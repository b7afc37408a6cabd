import { computed, ref, type ComputedRef, type Ref } from 'vue'
import {
  ask,
  client,
  sentence,
  type BrokenRule,
  type PlacedSpecimen,
  type SheetView,
} from '@/api/client'

const CHECK_EVERY_MS = 90

type Changed = Partial<{
  x_mm: number | null
  y_mm: number | null
  long_side: string
  locked: boolean
}>

/** Lay single specimens by hand: the rules are asked for while one is dragged, and kept when it is dropped. */
export function useLaying(
  sheet: ComputedRef<SheetView | null>,
  open: ComputedRef<boolean>,
  busy: Ref<boolean>,
  refused: Ref<string>,
  change: (work: () => Promise<unknown>) => Promise<boolean>,
) {
  const selected = ref<number | null>(null)
  const ghost = ref<{ id: number; x: number; y: number } | null>(null)
  const liveBroken = ref<BrokenRule[] | null>(null)
  const broken = computed(() => liveBroken.value ?? sheet.value?.broken ?? [])
  const chosen = computed(
    () => sheet.value?.specimens.find((specimen) => specimen.id === selected.value) ?? null,
  )

  let asking = false
  let requested: { id: number; x: number; y: number } | null = null
  async function drag(id: number, x: number, y: number) {
    ghost.value = { id, x, y }
    requested = ghost.value
    if (asking) return
    asking = true
    while (requested) {
      const { id: specimen_id, x: x_mm, y: y_mm } = requested
      requested = null
      try {
        const answer = await ask(
          client.POST('/api/jobs/{job_id}/sheet/check', {
            params: { path: { job_id: sheet.value!.job_id } },
            body: { specimen_id, x_mm, y_mm, locked: false },
          }),
        )
        if (ghost.value) liveBroken.value = answer
      } catch (error) {
        refused.value = sentence(error)
      }
      await new Promise((done) => window.setTimeout(done, CHECK_EVERY_MS))
    }
    asking = false
  }

  async function lay(placedSpecimen: PlacedSpecimen, changed: Changed) {
    const laid = {
      specimen_id: placedSpecimen.id,
      x_mm: placedSpecimen.x_mm,
      y_mm: placedSpecimen.y_mm,
      long_side: placedSpecimen.long_side,
      locked: placedSpecimen.locked,
      ...changed,
    } as const
    await change(() =>
      ask(
        client.PUT('/api/jobs/{job_id}/sheet/layout', {
          params: { path: { job_id: sheet.value!.job_id } },
          body: { laid: [laid as never], revision: sheet.value!.revision },
        }),
      ),
    )
  }

  async function drop(id: number, x: number, y: number) {
    requested = null
    ghost.value = { id, x, y }
    const specimen = sheet.value?.specimens.find((each) => each.id === id)
    if (specimen) await lay(specimen, { x_mm: x, y_mm: y })
    ghost.value = null
    liveBroken.value = null
  }

  function nudge(dx: number, dy: number) {
    const specimen = chosen.value
    if (
      !open.value ||
      !specimen ||
      specimen.locked ||
      specimen.x_mm === null ||
      specimen.y_mm === null ||
      busy.value
    )
      return
    void drop(specimen.id, specimen.x_mm + dx, specimen.y_mm + dy)
  }

  function lock() {
    const specimen = chosen.value
    if (open.value && specimen && specimen.x_mm !== null)
      void lay(specimen, { locked: !specimen.locked })
  }
  function turn() {
    const specimen = chosen.value
    if (!open.value || !specimen?.turnable || specimen.locked) return
    void lay(specimen, { long_side: specimen.long_side === 'warp' ? 'weft' : 'warp' })
  }

  return { selected, chosen, ghost, broken, drag, drop, nudge, lock, turn }
}
