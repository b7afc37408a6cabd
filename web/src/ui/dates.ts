import { format, isValid, parse } from 'date-fns'
import { enGB } from 'date-fns/locale/en-GB'
import { writing } from '@/ui/writing'

/** Days and times as the laboratory writes them, in the time of this computer. */
const DAY_FORMATS = { named: 'd MMM yyyy', dotted: 'dd.MM.yyyy', iso: 'yyyy-MM-dd' } as const
/** What is read, whichever of them the laboratory writes. */
const READ = ['d MMM yyyy', 'd MMMM yyyy', 'd.M.yyyy', 'yyyy-M-d']

const shown = (at: Date | string, pattern: string) => format(at, pattern, { locale: enGB })

/** "Fri 20 Nov, 16:00"; a dash for no time. */
export function moment(iso: string | null | undefined): string {
  return iso ? shown(iso, 'EEE d MMM, HH:mm') : '–'
}

/** "Fri 20, 16:00", for lists where the month is clear. */
export function shortMoment(iso: string): string {
  return shown(iso, 'EEE d, HH:mm')
}

/** "16:00". */
export function clockTime(iso: string): string {
  return shown(iso, 'HH:mm')
}

/** A day and a time as the laboratory writes them, to be read again by `momentFrom`. */
export function written(at: Date): string {
  return shown(at, `${DAY_FORMATS[writing.date_style]}, HH:mm`)
}

/** A day as the laboratory writes it: "20 Nov 2026", "20.11.2026" or "2026-11-20"; a dash for none. */
export function dayOf(iso: string | null | undefined): string {
  return iso ? shown(iso, DAY_FORMATS[writing.date_style]) : '–'
}

/** "2026-11-20": a day as documents and the picker hold it. */
export function isoDay(at: Date): string {
  return shown(at, 'yyyy-MM-dd')
}

/** The day and time that were typed, in any of the ways a laboratory writes; null for anything else. */
export function momentFrom(text: string): Date | null {
  const plain = text
    .trim()
    .toLowerCase()
    .replace(',', '')
    .replace(/^(\d+)\. /, '$1 ')
  const read = READ.map((day) => parse(plain, `${day} H:mm`, new Date(), { locale: enGB }))
  // A year of two digits is taken for one of the first century.
  return read.find((at) => isValid(at) && at.getFullYear() > 1900) ?? null
}

/** The day that was typed, as "2026-11-20"; null where it is none. */
export function dayFrom(text: string): string | null {
  const at = momentFrom(`${text} 12:00`)
  return at && isoDay(at)
}
