export interface Mark {
  kind: string
  says: string
  points: [number, number][]
  names: string[]
}
