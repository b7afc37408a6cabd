import { t } from '@/ui/words'
import { OFFICE_PAGES } from '@/office/pages'

/** A screen of the navigation, and the key that follows `g`. */
export interface NavigationPage {
  to: string
  text: string
  key: string
}

export const PAGES: NavigationPage[] = [
  { to: '/today', text: t('app.today'), key: 't' },
  { to: '/jobs', text: t('app.jobs'), key: 'j' },
  { to: '/cutting', text: t('app.cutting'), key: 'c' },
  { to: '/conditioning', text: t('app.conditioning'), key: 'h' },
  { to: '/bench', text: t('app.bench'), key: 'b' },
  { to: '/judge', text: t('app.review'), key: 'v' },
  { to: '/methods', text: t('app.methods'), key: 'm' },
  { to: '/instruments', text: t('app.instruments'), key: 'i' },
  { to: '/due', text: t('app.office'), key: 'd' },
  { to: '/people', text: t('app.people'), key: 'p' },
]

/** Every screen that a key leads to: those of the navigation, and those of the office. */
export const KEYED_PAGES: NavigationPage[] = [
  ...PAGES,
  ...OFFICE_PAGES.filter((page) => PAGES.every(({ to }) => to !== page.to)),
]
