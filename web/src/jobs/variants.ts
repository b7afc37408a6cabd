import type { Schemas } from '@/api/client'
import { asNumber } from '@/jobs/schema'

/** One of several samples as it is typed: what sets it apart, its own lot and size, its tests. */
export interface TypedVariant {
  key: number
  name: string
  lot: string
  size: string
  without: number[]
}

type Form = Schemas['SampleRequest']['form']

/** Which of the sizes of a form differs from sample to sample. */
export const OWN_SIZE: Record<Form, { name: keyof Schemas['VariantRequest']; text: string }> = {
  sheet: { name: 'length_mm', text: 'length, mm' },
  pieces: { name: 'count', text: 'how many' },
  packs: { name: 'count', text: 'how many' },
  granules: { name: 'mass_g', text: 'mass, g' },
}

/** The samples as they are received; `keys` are those of the tests in their order. */
export function variantsOf(
  typed: TypedVariant[],
  form: Form,
  keys: number[],
): Schemas['VariantRequest'][] {
  return typed
    .filter((variant) => variant.name.trim())
    .map((variant) => ({
      name: variant.name,
      lot: variant.lot.trim() || null,
      ...(variant.size.trim() ? { [OWN_SIZE[form].name]: asNumber(variant.size) } : {}),
      tests: keys.flatMap((key, place) => (variant.without.includes(key) ? [] : [place])),
    }))
}
