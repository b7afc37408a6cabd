import { createI18n } from 'vue-i18n'
import en from '@/locales/en.json'

type Catalogue = typeof en
type Key = {
  [Page in keyof Catalogue]: `${Page}.${keyof Catalogue[Page] & string}`
}[keyof Catalogue]

/** The catalogue as the application installs it, for sentences that hold other elements. */
export const i18n = createI18n({ legacy: false, locale: 'en', messages: { en } })

/** The text of the catalogue for `key`, with its values filled in. */
export function t(key: Key, values: Record<string, unknown> = {}): string {
  return i18n.global.t(key, values)
}

/** The text for one or for several: the catalogue parts the two by a bar, and `count` chooses. */
export function counted(key: Key, count: number, values: Record<string, unknown> = {}): string {
  return i18n.global.t(key, { count, ...values }, count)
}
