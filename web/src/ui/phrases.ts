import { counted, t } from '@/ui/words'

const two = (figure: number) => String(figure).padStart(2, '0')

/** The words with a capital letter first, as a label of a field begins. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}

/** A stretch of time as a clock shows it: "6 h 05", "11:42", "0:31". */
export function stretch(milliseconds: number): string {
  const seconds = Math.max(Math.round(milliseconds / 1000), 0)
  const hours = Math.floor(seconds / 3600)
  const minutes = Math.floor((seconds % 3600) / 60)
  return hours > 0 ? `${hours} h ${two(minutes)}` : `${minutes}:${two(seconds % 60)}`
}

/** A stretch of time as a person says it: "3 days", "6 h 05 min", "20 min". */
export function span(milliseconds: number): string {
  const minutes = Math.max(Math.round(milliseconds / 60_000), 1)
  const days = Math.floor(minutes / 1440)
  if (days >= 1) return counted('ui.day', days)
  const hours = Math.floor(minutes / 60)
  return hours > 0 ? `${hours} h ${two(minutes % 60)} min` : `${minutes} min`
}

/** When a job is due, in words that can be acted on. */
export function due(iso: string, now: number): { text: string; late: boolean } {
  const left = Date.parse(iso) - now
  const text = span(Math.abs(left))
  return left < 0
    ? { text: t('ui.late', { text }), late: true }
    : { text: t('ui.in', { text }), late: false }
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
    .map((run) =>
      run.length > 2 ? t('ui.to', { run: run[0], run2: run[run.length - 1] }) : run.join(', '),
    )
    .join(', ')
}

function follows(before: string, label: string): boolean {
  const [, named, number] = /^(\D*)(\d+)$/.exec(before) ?? []
  const [, other, next] = /^(\D*)(\d+)$/.exec(label) ?? []
  return named !== undefined && named === other && Number(number) + 1 === Number(next)
}

const VERDICTS: Record<string, string> = {
  meets: 'pass',
  'does not meet': 'fail',
  'cannot say': 'inconclusive',
  'not judged': t('ui.not-evaluated'),
}

/** A verdict of the documents as the screens say it. */
export function verdictWords(verdict: string): string {
  return VERDICTS[verdict] ?? verdict
}

/** A step of the plan as the screens say it. */
export function stepWords(step: string): string {
  return step.replace(/^hang\b/, 'condition')
}
