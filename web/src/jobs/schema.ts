import { withPoint } from '@/ui/numbers'

/** A JSON schema as the server gives it, as far as a plain form needs it. */
export interface Schema {
  type?: string
  $ref?: string
  $defs?: Record<string, Schema>
  anyOf?: Schema[]
  enum?: (string | number)[]
  const?: string
  properties?: Record<string, Schema>
  required?: string[]
  items?: Schema
  default?: unknown
  description?: string
}

/** The schema that is meant: references followed, and "or nothing" left aside. */
export function meant(schema: Schema, root: Schema): Schema {
  let followed = schema
  if (followed.$ref) followed = root.$defs?.[followed.$ref.split('/').pop()!] ?? {}
  const description = schema.description ?? followed.description
  if (!followed.anyOf) return { ...followed, description }
  const ways = followed.anyOf.filter((way) => way.type !== 'null')
  const best = ways.find((way) => way.enum) ?? ways.find((way) => way.type === 'string') ?? ways[0]
  return { ...meant(best ?? {}, root), description }
}

/** What is asked for by a field, in words: "remaining width, mm". */
export function fieldWords(name: string): string {
  const units: Record<string, string> = {
    mm: 'mm',
    n: 'N',
    s: 's',
    g: 'g',
    c: '°C',
    j: 'J',
    h: 'h',
    kg: 'kg',
    kpa: 'kPa',
    mpa: 'MPa',
    hz: 'Hz',
    percent: '%',
    cm2: 'cm²',
  }
  const parts = name.split('_')
  const last = parts[parts.length - 1]!
  if (name.endsWith('_g_m2')) return `${parts.slice(0, -2).join(' ')}, g/m²`
  if (name.endsWith('_mm_min')) return `${parts.slice(0, -2).join(' ')}, mm/min`
  if (name.endsWith('_n_per_mm')) return `${parts.slice(0, -3).join(' ')}, N/mm`
  if (parts.length > 1 && units[last]) return `${parts.slice(0, -1).join(' ')}, ${units[last]}`
  return parts.join(' ')
}

/** What was typed as a number, a decimal comma too; what is none stays text. */
export const asNumber = (text: string) => {
  const plain = withPoint(text)
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain) ? Number(plain) : text.trim()
}

/** What was typed as the document has it; undefined where nothing was. What is odd stays text. */
export function valueOf(text: string, schema: Schema): unknown {
  if (!text.trim()) return undefined
  if (schema.type === 'array')
    return text
      .split(/[;\s]+/)
      .filter(Boolean)
      .map((part) =>
        schema.items?.type === 'string' || schema.items?.enum ? part : asNumber(part),
      )
  return schema.type === 'string' || schema.enum ? text.trim() : asNumber(text)
}

/** A plain value, or several, as a text field holds it; empty for nothing and for what is not plain. */
export function writtenValue(value: unknown): string {
  if (Array.isArray(value)) return value.map(writtenValue).join(' ').trim()
  const isPlain =
    typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean'
  return isPlain ? String(value) : ''
}
