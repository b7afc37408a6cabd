import type { SheetView } from '@/api/client'

export type Spot = { x: number; y: number }
export type AreaTool = 'box' | 'polygon' | 'band'
export const BAND_MM = 30

/** The corners of the area that was drawn so far with a tool; none while it is nothing yet. */
export function cornersOf(tool: AreaTool, spots: Spot[], bandMm: number): Spot[] {
  const [first, last] = [spots[0], spots[spots.length - 1]]
  if (!first || !last || spots.length < 2) return []
  if (tool === 'polygon') return spots
  if (tool === 'box') return [first, { x: last.x, y: first.y }, last, { x: first.x, y: last.y }]
  const long = Math.hypot(last.x - first.x, last.y - first.y)
  if (long < 1) return []
  const aside = {
    x: ((first.y - last.y) / long) * (bandMm / 2),
    y: ((last.x - first.x) / long) * (bandMm / 2),
  }
  return [
    { x: first.x + aside.x, y: first.y + aside.y },
    { x: last.x + aside.x, y: last.y + aside.y },
    { x: last.x - aside.x, y: last.y - aside.y },
    { x: first.x - aside.x, y: first.y - aside.y },
  ]
}

/** How far along the roll there is something to see: what lies beyond is not drawn. */
export function usedMm(sheet: Pick<SheetView, 'width_mm' | 'specimens' | 'avoided'>): number {
  const ends = [
    ...sheet.specimens
      .filter((specimen) => specimen.x_mm !== null)
      .map((specimen) => specimen.outline),
    ...sheet.avoided.map((area) => area.corners),
  ].map((points) => Math.max(...points.map(({ y }) => y)))
  return ends.length ? Math.max(...ends, 0.3 * sheet.width_mm) + 0.12 * sheet.width_mm : Infinity
}
