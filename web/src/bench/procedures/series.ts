import type { BenchView } from '@/bench/bench'

type Item = Record<string, number | string | boolean | null>

/** The items of the first series of a test that are more than one value. */
export const itemsOf = (view: BenchView): Item[] =>
  (view.series[0]?.items ?? []).filter((item): item is Item => typeof item === 'object')

const numberOf = (item: Item, name: string) => Number(item[name] ?? 0)

export interface Stair {
  x: number
  y: number
  mass: number
  failed: boolean
}

const STEP_PX = 34
const HIGH_PX = 160
const LOW_PX = 24

/** A staircase of drops: each at its mass, one after the other, the one that is due at the end. */
export function stairsOf(
  items: Item[],
  dueG: number | null,
): { stairs: Stair[]; due: Stair | null } {
  const masses = [
    ...items.map((item) => numberOf(item, 'mass_g')),
    ...(dueG === null ? [] : [dueG]),
  ]
  const least = Math.min(...masses)
  const span = Math.max(Math.max(...masses) - least, 1e-9)
  const at = (mass: number, place: number, failed: boolean): Stair => ({
    x: 44 + STEP_PX * place,
    y: HIGH_PX - ((HIGH_PX - LOW_PX) * (mass - least)) / span,
    mass,
    failed,
  })
  const stairs = items.map((item, place) =>
    at(numberOf(item, 'mass_g'), place, item.failed === true),
  )
  return { stairs, due: dueG === null ? null : at(dueG, items.length, false) }
}

/** The mass that is due, where one is. */
export function dueOf(view: BenchView): number | null {
  const mass = view.series[0]?.due?.mass_g
  return typeof mass === 'number' ? mass : null
}

export interface Rod {
  length: number
  mass: string
  bubbles: boolean
}

/** Cuts as small rods, 10 to 20 mm long as they should be. */
export const rodsOf = (items: Item[]): Rod[] =>
  items.map((item) => ({
    length: numberOf(item, 'length_mm'),
    mass: item.mass_g === undefined ? `${numberOf(item, 'time_s')} s` : `${item.mass_g} g`,
    bubbles: item.bubbles === true,
  }))
