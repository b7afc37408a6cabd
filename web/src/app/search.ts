import { t } from '@/ui/words'
import { ask, client, type Schemas } from '@/api/client'

export type SearchHit = Schemas['SearchHit']

/** What these words find, exact codes first. */
export const searchFor = (words: string) =>
  ask(client.GET('/api/search', { params: { query: { words } } }))

/** The word for each kind of thing that is found. */
export const KIND_WORDS: Record<SearchHit['kind'], string> = {
  specimen: t('app.kind-specimen'),
  job: t('app.kind-job'),
  report: t('app.kind-report'),
  client: t('app.kind-client'),
  product: t('app.kind-product'),
  instrument: t('app.kind-instrument'),
  person: t('app.kind-person'),
}

/** Where a hit leads. */
export function addressOf(hit: SearchHit): string {
  switch (hit.kind) {
    case 'specimen':
      return `/bench/${hit.job_id}?specimen=${hit.id}`
    case 'job':
      return `/jobs/${hit.id}`
    case 'report':
      return `/judge/${hit.job_id}`
    case 'client':
      return `/clients?name=${encodeURIComponent(hit.name ?? '')}`
    case 'product':
      return `/products?id=${hit.id}`
    case 'instrument':
      return `/instruments?serial=${encodeURIComponent(hit.name ?? '')}`
    case 'person':
      return `/people?id=${hit.id}`
  }
}

/** What a scanner types, or a person: a code, or the address on a label that ends in it. */
export const codeIn = (typed: string): string => {
  const trimmed = typed.trim()
  return /^https?:\/\//.test(trimmed) ? trimmed.split('/').pop()! : trimmed
}

/** What a scanned code names exactly; the code of a remainder names its job. */
export function exactly(hits: SearchHit[], code: string): SearchHit | undefined {
  const scanned = code.toUpperCase()
  const names = (hit: SearchHit) => [hit.title.toUpperCase(), hit.name?.toUpperCase()]
  return (
    hits.find((hit) => names(hit).includes(scanned)) ??
    hits.find((hit) => hit.kind === 'job' && names(hit).includes(scanned.replace(/-R$/, '')))
  )
}
