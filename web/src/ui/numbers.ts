import { writing } from '@/ui/writing'

/** How figures are written and read on every screen. */
const LOCALE = 'en-GB'
const formats = new Map<number, Intl.NumberFormat>()

/** A figure with so many decimals, and no marks between thousands: "1480.0". */
export function fixed(figure: number, decimals: number): string {
  let format = formats.get(decimals)
  if (!format) {
    format = new Intl.NumberFormat(LOCALE, {
      useGrouping: false,
      minimumFractionDigits: decimals,
      maximumFractionDigits: decimals,
    })
    formats.set(decimals, format)
  }
  return signed(format.format(figure))
}

/** A figure as the server wrote it, with the decimal sign of the laboratory and a true minus. */
export function signed(text: string): string {
  const minus = text.replace(/(^|[\s(])-(?=\d)/g, '$1−')
  return writing.decimal_sign === 'comma' ? minus.replace(/(\d)\.(\d)/g, '$1,$2') : minus
}

/** A figure to three significant digits, as the report prints it; a dash where there is none. */
export function three(figure: number | null | undefined): string {
  if (figure === null || figure === undefined) return '–'
  if (figure === 0) return '0'
  const decimals = Math.max(2 - Math.floor(Math.log10(Math.abs(figure))), 0)
  return fixed(figure, Math.min(decimals, 6))
}

/** What was typed, with a decimal point: "12,5" is "12.5". */
export function withPoint(typed: string): string {
  return typed.trim().replace(',', '.').replace('−', '-')
}

/** The figure that was typed, with a comma or a point; not a number where it is none. */
export function figureFrom(typed: string): number {
  const plain = withPoint(typed)
  return plain === '' ? Number.NaN : Number(plain)
}

/** A place in a drawing, to a hundredth: SVG takes any number, and shorter ones are read faster. */
export function coordinate(place: number): number {
  return Math.round(place * 100) / 100
}
