import { fieldWords } from '@/jobs/schema'

/** A reading or a parameter of any shape, in a line of words. */
export function shown(value: unknown): string {
  if (value === null || value === undefined) return '–'
  if (Array.isArray(value)) {
    if (value.every((cell) => typeof cell !== 'object')) return value.join(', ')
    const rows = value.map((cell) =>
      Object.values(cell as object)
        .map(plain)
        .join(' '),
    )
    return rows.length > 8 ? `${rows.slice(0, 8).join('; ')} …` : rows.join('; ')
  }
  if (typeof value === 'object')
    return Object.entries(value)
      .filter(([, cell]) => cell !== null)
      .map(([name, cell]) => `${fieldWords(name)} ${shown(cell)}`)
      .join('; ')
  return plain(value)
}
const plain = (value: unknown) => (value === true ? 'yes' : value === false ? 'no' : String(value))
