/** What a desk knew of the time when the server last told it: all moments in milliseconds. */
export interface Heard {
  server: number
  steady: number
  wall: number
}

const LEAST_JUMP_MS = 2000

/** The server's time by a count that nobody can set. */
export function serverTime(heard: Heard, steady: number): number {
  return heard.server + (steady - heard.steady)
}

/** True when the desk's clock was set, or the desk slept, since the server was heard. */
export function wasSet(heard: Heard, steady: number, wall: number): boolean {
  return Math.abs(wall - heard.wall - (steady - heard.steady)) > LEAST_JUMP_MS
}
