import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import type { Stretch, TimeScale } from '@/today/timeScale'

export type Block = Schemas['BlockView']

/** How far ahead the strip looks, in hours. */
export const REACHES = [
  { hours: 12, text: 'today' },
  { hours: 48, text: t('today.two-days') },
  { hours: 168, text: t('today.the-week') },
] as const

/** Hours in which somebody works at a block: set-up and hands on. */
export function workOf(lanes: Schemas['LaneView'][]): Stretch[] {
  return lanes.flatMap((lane) =>
    lane.blocks.map((block) => ({
      begins: Date.parse(block.begins),
      ends: Date.parse(block.hands_on_end),
    })),
  )
}

/** The blocks of a lane that stand on the axis, each with its parts in percent. */
export function drawnOn(blocks: Block[], scale: TimeScale) {
  return blocks
    .map((block) => {
      const moments = [block.begins, block.start, block.hands_on_end, block.end]
      const [begins, start, hands, ends] = moments.map(scale.at) as [number, number, number, number]
      return { block, begins, setUp: start - begins, hands: hands - start, alone: ends - hands }
    })
    .filter((drawn) => drawn.setUp + drawn.hands + drawn.alone > 0)
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
