export interface Face {
  number: number
  points: string
  x: number
  y: number
}
export interface DrawnBox {
  view: string
  wide: number
  high: number
  faces: Face[]
}
type Spot = readonly [number, number]

const LARGEST_PX = 150
const RISES = 0.5

/** A box from its corner: the top (1), the near end (5) and the left side (4); null without sizes. */
export function boxOf(long: number, wide: number, high: number): DrawnBox | null {
  if (![long, wide, high].every((side) => Number.isFinite(side) && side > 0)) return null
  const scale = LARGEST_PX / Math.max(long, wide, high)
  const across: Spot = [wide * scale * 0.87, -wide * scale * RISES * 0.5]
  const back: Spot = [-long * scale * 0.87, -long * scale * RISES * 0.5]
  const up: Spot = [0, -high * scale]
  const origin: Spot = [0, 0]
  const near = [origin, across, sum(across, up), up]
  const left = [origin, back, sum(back, up), up]
  const top = [up, sum(up, across), sum(up, across, back), sum(up, back)]
  const seen = [face(1, top), face(5, near), face(4, left)]
  const spots = [...near, ...left, ...top]
  const xs = spots.map(([x]) => x)
  const ys = spots.map(([, y]) => y)
  const [x, y] = [Math.min(...xs) - 4, Math.min(...ys) - 4]
  const [w, h] = [Math.max(...xs) - x + 4, Math.max(...ys) - y + 4]
  return { view: `${x} ${y} ${w} ${h}`, wide: w, high: h, faces: seen }
}

function sum(...spots: Spot[]): Spot {
  return [spots.reduce((all, [x]) => all + x, 0), spots.reduce((all, [, y]) => all + y, 0)]
}

function face(number: number, spots: Spot[]): Face {
  const middle = spots.reduce((all, [x, y]) => [all[0] + x / 4, all[1] + y / 4] as Spot, [0, 0])
  return {
    number,
    points: spots.map(([x, y]) => `${x},${y}`).join(' '),
    x: middle[0],
    y: middle[1],
  }
}
