import type { Schemas } from '@/api/client'

type Group = Schemas['EnclosureView']['groups'][number]

export interface Bar {
  key: string
  name: string
  count: number
  from: string
  to: string | null
  ready: boolean
}

export const idsOf = (group: Schemas['WaitingGroup']) =>
  group.specimens.map((specimen) => specimen.id)

/** What hangs together, job by job: one bar each under the curve of the log. */
export function barsOf(groups: Group[]): Bar[] {
  const bars = new Map<string, Bar>()
  for (const group of groups) {
    const key = `${group.job_id} ${group.hung_at} ${group.runs_out_at}`
    const bar = bars.get(key) ?? {
      key,
      name: '',
      count: 0,
      from: group.hung_at,
      to: group.runs_out_at,
      ready: group.ready,
    }
    bar.count += group.specimens.length
    bar.name = `${group.job_number} ${group.product}, ${bar.count}`
    bars.set(key, bar)
  }
  return [...bars.values()]
}
