import type { MethodLine, Schemas } from '@/api/client'
import { kindsFor, limitFrom, type LimitTyped } from '@/jobs/limits'

/** A test as it is asked for at the counter, with its limits as they are typed. */
export interface Requested {
  key: number
  method: MethodLine
  parameters: Record<string, unknown>
  limits: Record<string, LimitTyped>
  /** The limits of a product's specification, which are taken as they stand. */
  specified?: Schemas['LimitRequest'][]
  /** The conditioning of a product's specification, where it is not as the method asks for. */
  conditioning?: Pick<Schemas['TestRequest'], 'state' | 'stages'>
}

/** Later than those of any page before: a draft brings its keys along. */
let keys = Date.now()
const nextKey = () => (keys += 1)

/** A test that is added at the counter: no parameters yet, and a limit to be typed for each row. */
export function newlyRequested(method: MethodLine): Requested {
  const limits: Record<string, LimitTyped> = {}
  for (const row of rowsOf(method))
    limits[row.key] = { kind: kindsFor(row.statistic, row.unit)[0]!, first: '', second: '' }
  return { key: nextKey(), method, parameters: {}, limits }
}

/** A test of a product as the counter asks for it. */
export function requestedOf(test: Schemas['TestRequest'], method: MethodLine): Requested {
  return {
    key: nextKey(),
    method,
    parameters: { ...test.parameters },
    limits: {},
    specified: test.limits,
    conditioning: { state: test.state, stages: test.stages },
  }
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

/** A test as it is sent: what was left open is left out. */
export function requestOf(requested: Requested): Schemas['TestRequest'] {
  return {
    state: 'original',
    method: requested.method.id,
    parameters: Object.fromEntries(
      Object.entries(requested.parameters).filter(([, value]) => value !== undefined),
    ),
    limits:
      requested.specified ??
      rowsOf(requested.method)
        .map((row) => limitFrom(row.property, row.direction, requested.limits[row.key]))
        .filter((limit) => limit !== null),
    ...requested.conditioning,
  }
}
