import { writing } from '@/ui/writing'

const day = new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric', month: 'short' })
const shortDay = new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric' })
const time = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })

/** "Fri 20 Nov, 16:00" in the time of this desk. */
export function moment(iso: string | null | undefined): string {
  if (!iso) return '–'
  const at = new Date(iso)
  return `${day.format(at).replace(',', '')}, ${time.format(at)}`
}

const MONTHS = 'jan feb mar apr may jun jul aug sep oct nov dec'.split(' ')

/** A moment as it is written down, to be read again by `momentFrom`. */
export function written(at: Date): string {
  return `${dayWritten(at)}, ${time.format(at)}`
}

/** A day as the house writes it: "20 Nov 2026", "20.11.2026" or "2026-11-20". */
function dayWritten(at: Date): string {
  const [date, month] = [two(at.getDate()), two(at.getMonth() + 1)]
  if (writing.date_style === 'dotted') return `${date}.${month}.${at.getFullYear()}`
  if (writing.date_style === 'iso') return `${at.getFullYear()}-${month}-${date}`
  const name = MONTHS[at.getMonth()]!
  return `${at.getDate()} ${name[0]!.toUpperCase()}${name.slice(1)} ${at.getFullYear()}`
}

const two = (figure: number) => String(figure).padStart(2, '0')

/** "2026-11-20T16:00": a moment as a picker of days and times holds it. */
export function forPicker(at: Date): string {
  const day = `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`
  return `${day}T${two(at.getHours())}:${two(at.getMinutes())}`
}

/** The moment that was written, by this desk's clock, in any of the ways that a house writes. */
export function momentFrom(text: string): Date | null {
  const said = text.trim().toLowerCase()
  const hours = /(\d{1,2}):(\d{2})$/.exec(said)
  const named = /^(\d{1,2})\.? ([a-z]{3})[a-z]* (\d{4})/.exec(said)
  const dotted = /^(\d{1,2})\.(\d{1,2})\.(\d{4})/.exec(said)
  const plain = dotted
    ? [said, dotted[3], dotted[2], dotted[1]]
    : /^(\d{4})-(\d{1,2})-(\d{1,2})/.exec(said)
  const parts = named
    ? [Number(named[3]), MONTHS.indexOf(named[2]!), Number(named[1])]
    : plain
      ? [Number(plain[1]), Number(plain[2]) - 1, Number(plain[3])]
      : null
  if (!parts || !hours || parts[1]! < 0) return null
  const at = new Date(parts[0]!, parts[1]!, parts[2], Number(hours[1]), Number(hours[2]))
  const same = at.getMonth() === parts[1] && at.getDate() === parts[2]
  return same && Number(hours[1]) < 24 && Number(hours[2]) < 60 ? at : null
}

/** The day that was written, as "2026-11-20"; null where it is none. */
export function dayFrom(text: string): string | null {
  const at = momentFrom(`${text.trim()} 12:00`)
  return at ? forPicker(at).slice(0, 10) : null
}

/** "Fri 20, 16:00", for lists where the month is plain. */
export function shortMoment(iso: string): string {
  const at = new Date(iso)
  return `${shortDay.format(at)}, ${time.format(at)}`
}

export function clockTime(iso: string): string {
  return time.format(new Date(iso))
}

/** A stretch of time as a clock shows it: "6 h 05", "11:42", "0:31". */
export function stretch(milliseconds: number): string {
  const seconds = Math.max(Math.round(milliseconds / 1000), 0)
  const hours = Math.floor(seconds / 3600)
  const minutes = Math.floor((seconds % 3600) / 60)
  return hours > 0 ? `${hours} h ${two(minutes)}` : `${minutes}:${two(seconds % 60)}`
}

/** When a job is due, in words that can be acted on. */
export function due(iso: string, now: number): { words: string; late: boolean } {
  const left = Date.parse(iso) - now
  const days = Math.floor(Math.abs(left) / 86_400_000)
  const span = days >= 1 ? `${days} day${days > 1 ? 's' : ''}` : stretch(Math.abs(left))
  return left < 0 ? { words: `${span} late`, late: true } : { words: `in ${span}`, late: false }
}

/** A row as it is called: "Tear force, warp". */
export function named(row: { title: string; group?: string }): string {
  return row.group ? `${row.title}, ${row.group}` : row.title
}

/** "W1 to W6, F1 to F6": neighbouring numbers drawn together. */
export function together(labels: string[]): string {
  const runs: string[][] = []
  for (const label of labels) {
    const last = runs[runs.length - 1]
    const before = last?.[last.length - 1]
    if (last && before !== undefined && follows(before, label)) last.push(label)
    else runs.push([label])
  }
  return runs
    .map((run) => (run.length > 2 ? `${run[0]} to ${run[run.length - 1]}` : run.join(', ')))
    .join(', ')
}

function follows(before: string, label: string): boolean {
  const [, named, number] = /^(\D*)(\d+)$/.exec(before) ?? []
  const [, other, next] = /^(\D*)(\d+)$/.exec(label) ?? []
  return named !== undefined && named === other && Number(number) + 1 === Number(next)
}

/** A day as the house writes it; a dash where there is none. */
export function dayOf(iso: string | null | undefined): string {
  return iso ? dayWritten(new Date(iso)) : '–'
}

const VERDICTS: Record<string, string> = {
  meets: 'pass',
  'does not meet': 'fail',
  'cannot say': 'inconclusive',
  'not judged': 'not evaluated',
}

/** A verdict of the documents as the screens say it. */
export function verdictWords(verdict: string): string {
  return VERDICTS[verdict] ?? verdict
}

/** A step of the plan as the screens say it. */
export function stepWords(step: string): string {
  return step.replace(/^hang\b/, 'condition')
}
