import { t } from '@/ui/words'
import type { JobLine, MethodLine } from '@/api/client'
import { placeOf } from '@/app/router'
import { KEYED_PAGES } from '@/app/pages'
import type { KeyUse } from '@/ui/keys'
import { capital } from '@/ui/phrases'

/** One thing that can be done or opened, as the palette lists it. */
export interface Command {
  key: string
  title: string
  text: string
  /** Where it leads; an action of the page has none. */
  to?: string
  act?: () => void
}

const MAX_SHOWN = 18

const PLACES: { to: string; text: string }[] = [
  ...KEYED_PAGES,
  { to: '/jobs/new', text: t('app.receive-sample') },
  { to: '/send', text: t('app.required-sample-size') },
]

/** What fits the words that are typed: every word stands in the title or beside it. */
export function commandsFor(
  typed: string,
  known: { page: KeyUse[]; jobs: JobLine[]; methods: MethodLine[] },
): Command[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean)
  const fits = (command: Command) => {
    const text = `${command.title} ${command.text}`.toLowerCase()
    return words.every((word) => text.includes(word))
  }
  const ofPage = known.page.flatMap(({ key, text, act }) =>
    act
      ? [{ key: t('app.page', { key }), title: capital(text), text: t('app.on-this-page'), act }]
      : [],
  )
  const places = PLACES.map(({ to, text: title }) => ({ key: to, title, text: 'screen', to }))
  const jobs = known.jobs.flatMap((job) => {
    const text = t('app.lot', { product: job.product, client: job.client, lot: job.lot })
    const opens = {
      key: t('app.job', { id: job.id }),
      title: job.number,
      text,
      to: `/jobs/${job.id}`,
    }
    const next = placeOf(job.next_screen, job.id)
    return [
      opens,
      {
        key: t('app.next', { id: job.id }),
        title: `${job.number}: ${job.next_text}`,
        text,
        to: next,
      },
    ]
  })
  const methods = known.methods.map((method) => ({
    key: t('app.method', { id: method.id }),
    title: t('app.method-2', { title: method.title }),
    text: method.id,
    to: `/methods/${method.id}`,
  }))
  // The server searched the jobs by all words already; without words there are only actions and screens.
  const found = [...ofPage, ...places].filter(fits)
  if (!words.length) return found.slice(0, MAX_SHOWN)
  return [...found, ...jobs, ...methods.filter(fits)].slice(0, MAX_SHOWN)
}
