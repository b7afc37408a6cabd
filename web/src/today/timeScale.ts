import { t } from '@/ui/words'
import { format } from 'date-fns'
import { enGB } from 'date-fns/locale/en-GB'

/** The time axis of the day: hours from left to right, nights and days on which nobody works folded. */
export interface TimeScale {
  /** Where a moment stands, in percent of the width, kept on the axis. */
  at: (iso: string) => number
  /** The moment at a place in percent, to five minutes. */
  momentAt: (place: number) => Date
  marks: { at: number; text: string }[]
  folds: { left: number; width: number; text: string }[]
}
export interface Stretch {
  begins: number
  ends: number
}

const HOUR = 3_600_000
const FIVE_MINUTES = 300_000
/** Hours before and after which a day is a night, unless somebody works. */
const MORNING = 6
const EVENING = 20
/** A fold is as wide as so many hours, and worth it from so many hours on. */
const FOLDED = 0.6
const MIN_FOLD = 3

export function timeScale(from: number, hours: number, work: Stretch[]): TimeScale {
  const end = from + hours * HOUR
  const parts = partsOf(from, end, work)
  const total = parts.reduce((sum, part) => sum + part.weight, 0)
  let left = 0
  const placed = parts.map((part) => {
    const width = (100 * part.weight) / total
    left += width
    return { ...part, left: left - width, width }
  })
  function place(moment: number): number {
    const kept = Math.min(Math.max(moment, from), end)
    const part = placed.find((each) => kept <= each.ends) ?? placed.at(-1)!
    return part.left + (part.width * (kept - part.begins)) / (part.ends - part.begins)
  }
  return {
    at: (iso) => place(Date.parse(iso)),
    momentAt(share) {
      const kept = Math.min(Math.max(share, 0), 100)
      const part = placed.find((each) => kept <= each.left + each.width) ?? placed.at(-1)!
      const moment = part.begins + ((kept - part.left) / part.width) * (part.ends - part.begins)
      return new Date(Math.round(moment / FIVE_MINUTES) * FIVE_MINUTES)
    },
    marks: marksOf(
      from,
      end,
      placed.filter((part) => part.isFolded),
      place,
      hours,
    ),
    folds: placed
      .filter((part) => part.isFolded)
      .map(({ left, width, begins, ends }) => ({
        left,
        width,
        text: t('today.to-no-work-planned', {
          begins: format(begins, 'EEE HH:mm', { locale: enGB }),
          ends: format(ends, 'EEE HH:mm', { locale: enGB }),
        }),
      })),
  }
}

interface Part extends Stretch {
  weight: number
  isFolded: boolean
}

/** Whole hours, drawn together: those in which somebody works or could, and those that are folded. */
function partsOf(from: number, end: number, work: Stretch[]): Part[] {
  const worksIn = (begins: number, ends: number) =>
    work.some((each) => each.begins < ends && each.ends > begins)
  const parts: Part[] = []
  for (let begins = from; begins < end;) {
    const ends = Math.min(Math.floor(begins / HOUR) * HOUR + HOUR, end)
    const isFolded = !worksIn(begins, ends) && isShut(begins, worksIn)
    const last = parts.at(-1)
    if (last?.isFolded === isFolded) last.ends = ends
    else parts.push({ begins, ends, isFolded, weight: 0 })
    begins = ends
  }
  for (const part of parts) {
    const length = (part.ends - part.begins) / HOUR
    part.isFolded &&= length >= MIN_FOLD && parts.length > 1
    part.weight = part.isFolded ? FOLDED : length
  }
  return parts
}

/** A night hour, or any hour of a day on which nobody works. */
function isShut(at: number, worksIn: (begins: number, ends: number) => boolean): boolean {
  const when = new Date(at)
  if (when.getHours() < MORNING || when.getHours() >= EVENING) return true
  const day = new Date(at).setHours(0, 0, 0, 0)
  return !worksIn(day, day + 24 * HOUR)
}

/** Hours where there is room for them, the day at its beginning or at the end of a fold. */
function marksOf(
  from: number,
  end: number,
  folds: Stretch[],
  place: (moment: number) => number,
  hours: number,
) {
  const every = hours <= 14 ? 1 : hours <= 48 ? 4 : 24
  const marks: { at: number; text: string }[] = []
  const first = new Date(from)
  first.setMinutes(0, 0, 0)
  for (let at = first.getTime(); at <= end; at += HOUR) {
    const fold = folds.find((each) => each.begins < at && at < each.ends)
    const opens = folds.some((each) => each.ends === at)
    const hour = new Date(at).getHours()
    if (at < from || fold || (hour % every !== 0 && !opens)) continue
    const isDay = hour === 0 || opens
    const text = isDay ? format(at, hour ? 'EEE HH:mm' : 'EEE d', { locale: enGB }) : String(hour)
    marks.push({ at: place(at), text })
  }
  return marks
}
