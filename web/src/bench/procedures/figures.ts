import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import { computed } from 'vue'
import type { SpecimenView } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import type { Recorded } from '@/bench/procedures/recorded'

export interface ProcedureProps {
  view: BenchView
  specimen: SpecimenView
  recorded: Recorded
}

/**
 * The two large figures of what a device records: live as they come, then the highest (or the figure of the
 * specimen, once it has one), before the run what the device reads by the names given here.
 */
export function useFigures(props: ProcedureProps, first: string, second: string) {
  const reads = (name: string) =>
    props.view.station?.readings.find((reading) => reading.name === name)?.value ?? null
  const last = (column: number[]) => column[column.length - 1] ?? null
  const upper = computed(() => {
    const { isLive, shown, y } = props.recorded
    if (isLive.value) return last(y.value)
    if (!shown.value) return reads(first)
    return y.value.length ? Math.max(...y.value) : null
  })
  /** What the two figures are: of the device now, or of the run that is shown. */
  const titles = computed(() => {
    const { isLive, shown } = props.recorded
    if (isLive.value || !shown.value) return { upper: 'now', lower: 'now' }
    return { upper: figure.value === null ? 'highest' : 'result', lower: t('bench.at-the-end') }
  })
  /** After a run the device is still read: what it shows now stands beside the run. */
  const device = computed(() => {
    if (!props.recorded.shown.value || props.view.phase === 'complete') return null
    const value = reads(first)
    return value === null ? null : { value, name: props.view.station!.name }
  })
  /** Once a specimen has its figure, that is what counts: as it is reported, in its own unit. */
  const figure = computed(() =>
    props.recorded.shown.value && props.specimen.value_text
      ? signed(props.specimen.value_text)
      : null,
  )
  const unitOr = (unit: string) => (figure.value === null ? unit : props.view.figure_unit)
  const lower = computed(() => {
    const { isLive, shown, x } = props.recorded
    return isLive.value || shown.value ? last(x.value) : reads(second)
  })
  const opens = computed(() =>
    props.recorded.working.value.length
      ? t('bench.calculation-2', { label: props.specimen.label })
      : '',
  )
  return { upper, lower, figure, unitOr, opens, titles, device }
}
