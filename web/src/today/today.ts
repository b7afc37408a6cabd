import type { Schemas } from '@/api/client'

export type Block = Schemas['BlockView']

/** How far ahead the strip looks, in hours. */
export const REACHES = [
  { hours: 12, words: 'today' },
  { hours: 48, words: 'two days' },
  { hours: 168, words: 'the week' },
] as const

const HOUR = 3_600_000

/** Where a moment lies on a strip of so many hours from `from`, in percent, kept on it. */
export function placeOn(iso: string, from: number, hours: number): number {
  const share = (Date.parse(iso) - from) / (hours * HOUR)
  return Math.min(Math.max(share, 0), 1) * 100
}

/** The marks of the strip: hours, or days where it looks farther. */
export function marksOf(from: number, hours: number): { at: number; words: string }[] {
  const marks = []
  const first = new Date(from)
  first.setMinutes(0, 0, 0)
  const every = hours <= 12 ? 1 : hours <= 48 ? 6 : 24
  for (let at = first.getTime(); at <= from + hours * HOUR; at += HOUR) {
    const when = new Date(at)
    if (at < from || when.getHours() % every !== 0) continue
    const isDay = when.getHours() === 0
    marks.push({
      at: placeOn(when.toISOString(), from, hours),
      words: isDay
        ? when.toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric' })
        : String(when.getHours()),
    })
  }
  return marks
}

/** The blocks of a lane that stand on the strip, each with its parts in percent. */
export function drawnOn(blocks: Block[], from: number, hours: number) {
  const end = from + hours * HOUR
  return blocks
    .filter((block) => Date.parse(block.end) > from && Date.parse(block.begins) < end)
    .map((block) => {
      const [begins, start, hands, ends] = [
        block.begins,
        block.start,
        block.hands_on_end,
        block.end,
      ].map((moment) => placeOn(moment, from, hours)) as [number, number, number, number]
      return { block, begins, setUp: start - begins, hands: hands - start, alone: ends - hands }
    })
}

/** Blocks that overlap stand below each other: the row of each, and how many rows there are. */
export function stacked<Drawn extends { block: Block }>(drawn: Drawn[]) {
  const ends: number[] = []
  const rows = drawn.map((each) => {
    const begins = Date.parse(each.block.begins)
    const free = ends.findIndex((end) => end <= begins)
    const row = free < 0 ? ends.length : free
    ends[row] = Date.parse(each.block.end)
    return { ...each, row }
  })
  return { rows, count: Math.max(ends.length, 1) }
}

/** What a person's lane shows: only what needs them. */
export function withoutWaiting(blocks: Block[]): Block[] {
  return blocks.map((block) => ({ ...block, end: block.hands_on_end }))
}
