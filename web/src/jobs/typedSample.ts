import type { Schemas } from '@/api/client'
import { serverNow } from '@/app/clock'
import { asNumber } from '@/jobs/schema'
import { figureFrom } from '@/ui/numbers'

/** What is written down about a sample at the counter, as it is typed. */
export function emptySample(width: string) {
  const inFourDays = new Date(serverNow() + 4 * 86_400_000)
  inFourDays.setHours(16, 0, 0, 0)
  return {
    client: '',
    product: '',
    lot: '',
    material: '',
    order_number: '',
    client_reference: '',
    arrival_state: 'in good condition',
    width_mm: width,
    length_mm: '1000',
    count: '',
    mass_g: '',
    bag: '',
    regrind_percent: '',
    piece_kind: '' as PieceKind | '',
    long_mm: '',
    wide_mm: '',
    high_mm: '',
    gross_mass_kg: '',
    faces: '',
    due: inFourDays.toISOString() as string | null,
  }
}
export type TypedSample = ReturnType<typeof emptySample>

type Form = Schemas['SampleRequest']['form']
type PieceKind = NonNullable<Schemas['SampleRequest']['piece_kind']>
export const PIECE_KINDS: PieceKind[] = [
  'bars',
  'turned rods',
  'mouldings',
  'dumbbells',
  'discs',
  'prints',
]

/** What still has to be written down: the names of fields, those of the form among them. */
export function missingOf(sample: TypedSample, form: Form): (keyof TypedSample)[] {
  const ofForm = { sheet: [], granules: ['mass_g'], pieces: ['count'], packs: ['count'] } as const
  return (
    [...(['client', 'product', 'lot', 'material'] as const), ...ofForm[form]] as const
  ).filter((name) => !sample[name].trim())
}

/** How much there is, in what its form is measured by. */
export function sizesOf(sample: TypedSample, form: Form) {
  const count = asNumber(sample.count) as number
  return {
    sheet: { width_mm: figureFrom(sample.width_mm), length_mm: figureFrom(sample.length_mm) },
    pieces: {
      count,
      ...(sample.piece_kind ? { piece_kind: sample.piece_kind } : {}),
    },
    packs: { count, ...packOf(sample) },
    granules: {
      mass_g: asNumber(sample.mass_g) as number,
      ...(sample.bag.trim() ? { bag: sample.bag.trim() } : {}),
      ...(sample.regrind_percent.trim()
        ? { regrind_percent: asNumber(sample.regrind_percent) as number }
        : {}),
    },
  }[form]
}

/** What was written down of a pack; a size is of three sides, and what was left empty is left out. */
function packOf(sample: TypedSample) {
  const sides = [sample.long_mm, sample.wide_mm, sample.high_mm]
  const [long, wide, high] = sides.map((side) => asNumber(side) as number)
  const isSized = sides.some((side) => side.trim())
  return {
    ...(isSized ? { size_mm: [long, wide, high] as [number, number, number] } : {}),
    ...(sample.gross_mass_kg.trim()
      ? { gross_mass_kg: asNumber(sample.gross_mass_kg) as number }
      : {}),
    ...(sample.faces.trim() ? { faces: sample.faces.trim() } : {}),
  }
}
