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
    const key = `${group.job_id} ${group.placed_at} ${group.runs_out_at}`
    const bar = bars.get(key) ?? {
      key,
      name: '',
      count: 0,
      from: group.placed_at,
      to: group.runs_out_at,
      ready: group.ready,
    }
    bar.count += group.specimens.length
    bar.name = `${group.job_number} ${group.product}, ${bar.count}`
    bars.set(key, bar)
  }
  return [...bars.values()]
}

type Waiting = Schemas['WaitingGroup']

/** What waits of one job; `together` is what can be placed in one room at once, where that is several. */
export interface WaitingJob {
  id: number
  number: string
  product: string
  groups: Waiting[]
  together: { room: number; ids: number[] } | null
}

/** What waits, job by job, in the order of the most urgent group of each. */
export function byJob(waiting: Waiting[]): WaitingJob[] {
  const jobs = new Map<number, Waiting[]>()
  for (const group of waiting) jobs.set(group.job_id, [...(jobs.get(group.job_id) ?? []), group])
  return [...jobs.values()].map((groups) => ({
    id: groups[0]!.job_id,
    number: groups[0]!.job_number,
    product: groups[0]!.product,
    groups,
    together: togetherOf(groups),
  }))
}

/** Groups that ask for nothing first and belong in the same room. */
function togetherOf(groups: Waiting[]): WaitingJob['together'] {
  const free = groups.filter(
    (group) => group.enclosures.length && !group.damp && !group.early.length,
  )
  for (const { enclosures } of free) {
    const room = enclosures[0]!
    const alike = free.filter((group) => group.enclosures[0] === room)
    if (alike.length > 1) return { room, ids: alike.flatMap(idsOf) }
  }
  return null
}
