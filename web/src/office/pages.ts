import { t } from '@/ui/words'

/** The pages of the office: each with its address, its name and the key that follows `g`. */
export const OFFICE_PAGES = [
  { to: '/due', text: t('office.due'), key: 'd' },
  { to: '/clients', text: t('office.clients'), key: 'l' },
  { to: '/nonconformities', text: t('office.nonconformities'), key: 'n' },
  { to: '/products', text: t('office.products'), key: 'o' },
]

export const isOffice = (path: string) => OFFICE_PAGES.some((page) => page.to === path)
