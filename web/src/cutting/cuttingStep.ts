import { computed, type ComputedRef } from 'vue'
import type { Router } from 'vue-router'
import { ask, client, type BrokenRule, type SheetView } from '@/api/client'
import type { useAct } from '@/api/queries'
import { placeOf } from '@/app/router'
import { moment } from '@/ui/dates'

const notPlaced = (count: number) =>
  count === 1 ? 'One specimen is not placed.' : `${count} specimens are not placed.`

export interface CuttingStep {
  text: string
  why: string
  go: () => unknown
}

/** The one thing to do next with a sheet, and why. */
export function useCuttingStep(
  sheet: ComputedRef<SheetView | null>,
  broken: ComputedRef<BrokenRule[]>,
  act: ReturnType<typeof useAct>['act'],
  placeAll: () => Promise<void>,
  router: Router,
) {
  const unplaced = computed(
    () => sheet.value?.specimens.filter((specimen) => specimen.x_mm === null) ?? [],
  )
  const nothingPlaced = computed(() => unplaced.value.length === sheet.value?.specimens.length)
  const locked = computed(
    () => sheet.value?.specimens.filter((specimen) => specimen.locked).length ?? 0,
  )
  const replacements = computed(() =>
    Object.entries(sheet.value?.replacements ?? {}).flatMap(([test, missing]) =>
      Object.keys(missing).map((direction) => ({ test: Number(test), direction })),
    ),
  )

  const next = computed<CuttingStep | null>(() => {
    if (!sheet.value) return null
    if (replacements.value[0]) {
      const { test, direction } = replacements.value[0]
      return {
        text: `Cut replacement, ${direction}`,
        why: `A void specimen in the ${direction} has no spare left. Another specimen is placed on the remaining sheet.`,
        go: () =>
          act(() =>
            ask(
              client.POST('/api/tests/{test_id}/replacements/{direction}', {
                params: { path: { test_id: test, direction } },
              }),
            ),
          ),
      }
    }
    if (sheet.value.cut_at && !sheet.value.left_to_cut)
      return {
        text: 'Start conditioning',
        why: `Cut ${moment(sheet.value.cut_at)}. Cut specimens can no longer be moved.`,
        go: () => router.push(placeOf('conditioning', sheet.value!.job_id)),
      }
    if (nothingPlaced.value)
      return {
        text: 'Place specimens',
        why: 'Mark creases, stains and holes first. The specimens are placed clear of them.',
        go: placeAll,
      }
    if (unplaced.value.length)
      return {
        text: 'Place specimens again',
        why: sheet.value.shortage ? '' : notPlaced(unplaced.value.length),
        go: placeAll,
      }
    if (broken.value.length)
      return {
        text: locked.value ? 'Place remaining specimens' : 'Place specimens again',
        why: 'Or move the specimens by hand until no rule is broken.',
        go: placeAll,
      }
    return {
      text: 'Confirm cut',
      why: 'All cutting rules are kept. Print the sheet, cut the specimens, then confirm.',
      go: () =>
        act(() =>
          ask(
            client.POST('/api/jobs/{job_id}/sheet/cut', {
              params: { path: { job_id: sheet.value!.job_id } },
              body: { revision: sheet.value!.revision },
            }),
          ),
        ),
    }
  })

  return { next, nothingPlaced, locked }
}
