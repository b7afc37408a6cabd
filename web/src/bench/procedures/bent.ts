/** A pallet as a net over its plan, each knot sunk by what the sensors near it saw. */

export interface Sunk {
  name: string
  x: number
  y: number
  mm: number
}
export interface Knot {
  x: number
  y: number
}

const KNOTS = 9
const NEAR_MM = 1
const WIDE = 460
const DEEP = 150
const SLANT = 0.45
const SINK_PX = 90

/** The sag at a place: of the sensors, the nearer the more. */
export function sagAt(sensors: Sunk[], x: number, y: number): number {
  let sum = 0
  let weights = 0
  for (const sensor of sensors) {
    const far2 = (sensor.x - x) ** 2 + (sensor.y - y) ** 2
    if (far2 < NEAR_MM) return sensor.mm
    sum += sensor.mm / far2
    weights += 1 / far2
  }
  return weights ? sum / weights : 0
}

/** How a place of the plan is seen from the front, a little above; sags are drawn far too large. */
export function seen(sensors: Sunk[], x: number, y: number, mm: number): Knot {
  const wide = Math.max(...sensors.map((sensor) => sensor.x), 1) * 1.06
  const deep = Math.max(...sensors.map((sensor) => sensor.y), 1) * 1.06
  const most = Math.max(...sensors.map((sensor) => Math.abs(sensor.mm)), 0.1)
  return {
    x: 20 + (WIDE * x) / wide + SLANT * DEEP * (y / deep),
    y: 14 + DEEP * (1 - y / deep) + (SINK_PX * mm) / most,
  }
}

/** The lines of the net, along and across. */
export function netOf(sensors: Sunk[]): string[] {
  if (!sensors.length) return []
  const wide = Math.max(...sensors.map((sensor) => sensor.x)) * 1.06
  const deep = Math.max(...sensors.map((sensor) => sensor.y)) * 1.06
  const steps = Array.from({ length: KNOTS }, (_, step) => step / (KNOTS - 1))
  const line = (knots: Knot[]) =>
    knots.map((knot) => `${knot.x.toFixed(1)},${knot.y.toFixed(1)}`).join(' ')
  const knot = (u: number, v: number) =>
    seen(sensors, u * wide, v * deep, sagAt(sensors, u * wide, v * deep))
  return [
    ...steps.map((v) => line(steps.map((u) => knot(u, v)))),
    ...steps.map((u) => line(steps.map((v) => knot(u, v)))),
  ]
}
