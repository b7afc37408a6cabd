export interface Mark {
  kind: string
  text: string
  points: [number, number][]
  names: string[]
}
