import { t } from '@/ui/words'

/** The pages of the office: each with its address, its name and the key that follows `g`; `right` is needed to see it. */
export const OFFICE_PAGES: { to: string; text: string; key: string; right?: string }[] = [
  { to: '/due', text: t('office.due'), key: 'd' },
  { to: '/clients', text: t('office.clients'), key: 'l' },
  { to: '/nonconformities', text: t('office.nonconformities'), key: 'n' },
  { to: '/products', text: t('office.products'), key: 'o' },
  { to: '/trends', text: t('office.trends'), key: 'r' },
  { to: '/figures', text: t('office.figures'), key: 'f', right: 'see-figures' },
]

export const isOffice = (path: string) => OFFICE_PAGES.some((page) => page.to === path)
