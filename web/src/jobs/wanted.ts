import type { MethodLine, Schemas } from '@/api/client'
import type { LimitTyped } from '@/jobs/limits'

/** A test as it is asked for at the counter, with its limits as they are typed. */
export interface Wanted {
  key: number
  method: MethodLine
  parameters: Record<string, unknown>
  limits: Record<string, LimitTyped>
  /** The limits of a product's specification, which are taken as they stand. */
  specified?: Schemas['LimitRequest'][]
}

/** A test of a product as the counter asks for it. */
export function wantedOf(test: Schemas['TestRequest'], method: MethodLine, key: number): Wanted {
  return { key, method, parameters: { ...test.parameters }, limits: {}, specified: test.limits }
}

/** The limits that are asked for at the counter: of the class, else of the first property, each way. */
export function rowsOf(method: MethodLine) {
  const first =
    method.properties.find((property) => property.statistic === 'class') ?? method.properties[0]
  if (!first) return []
  const directions = method.directions.length && !method.by_document ? method.directions : ['']
  return directions.map((direction) => ({
    key: `${first.name} ${direction}`,
    property: first.name,
    direction,
    label: direction || first.title,
    unit: first.unit,
    statistic: first.statistic,
  }))
}
