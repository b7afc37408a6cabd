import { counted, t } from '@/ui/words'
import { computed, type ComputedRef } from 'vue'
import type { Router } from 'vue-router'
import { ask, client, type BrokenRule, type SheetView } from '@/api/client'
import type { useAct } from '@/api/queries'
import { placeOf } from '@/app/router'
import { moment } from '@/ui/dates'

const notPlaced = (count: number) => counted('cutting.specimens-are-not-placed', count)

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
        text: t('cutting.cut-replacement', { direction }),
        why: t('cutting.a-void-specimen-in-the-has-no-spare', { direction }),
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
        text: t('cutting.start-conditioning'),
        why: t('cutting.cut-cut-specimens-can-no-longer-be', {
          cut_at: moment(sheet.value.cut_at),
        }),
        go: () => router.push(placeOf('conditioning', sheet.value!.job_id)),
      }
    if (nothingPlaced.value)
      return {
        text: t('cutting.place-specimens'),
        why: t('cutting.mark-creases-stains-and-holes-first-the'),
        go: placeAll,
      }
    if (unplaced.value.length)
      return {
        text: t('cutting.place-specimens-again'),
        why: sheet.value.shortage ? '' : notPlaced(unplaced.value.length),
        go: placeAll,
      }
    if (broken.value.length)
      return {
        text: locked.value
          ? t('cutting.place-remaining-specimens')
          : t('cutting.place-specimens-again'),
        why: t('cutting.or-move-the-specimens-by-hand-until-no'),
        go: placeAll,
      }
    return {
      text: t('cutting.confirm-cut'),
      why: t('cutting.all-cutting-rules-are-kept-print-the'),
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
