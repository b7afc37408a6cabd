import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { ask, client, type MethodLine, type Schemas } from '@/api/client'
import { kindsFor, limitFrom, typedFrom, type LimitTyped } from '@/jobs/limits'
import { stagesOf, typedStages, type StageTyped } from '@/measuring/stages'
import { t } from '@/ui/words'

export type ProductPage = Schemas['ProductPage']
export type ProductState = 'all' | 'in-force' | 'draft' | 'retired'

export const STATES: Record<Schemas['ProductRevision']['state'], string> = {
  draft: t('products.draft'),
  approved: t('products.approved-not-yet-in-force'),
  'in-force': t('products.in-force'),
  superseded: t('products.superseded'),
  retired: t('products.retired'),
}

/** Products page by page, as they are looked for. */
export function useProducts(search: Ref<string>, state: Ref<ProductState>) {
  return useInfiniteQuery({
    queryKey: ['products', search, state],
    queryFn: ({ pageParam }) =>
      ask(
        client.GET('/api/products', {
          params: {
            query: { search: search.value, state: state.value, after: pageParam ?? undefined },
          },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.after,
    placeholderData: keepPreviousData,
  })
}

/** One revision of a product. */
export function useProduct(id: Ref<number | null>) {
  return useQuery({
    queryKey: ['product', id],
    queryFn: () => readProduct(id.value!),
    enabled: computed(() => id.value !== null),
  })
}

export const readProduct = (product_id: number) =>
  ask(client.GET('/api/products/{product_id}', { params: { path: { product_id } } }))

/** One contribution to the uncertainty that guards a limit, as it is typed. */
export interface ContributionTyped {
  name: string
  value: string
  kind: 'standard' | 'half_interval' | 'expanded'
  amount: string
  k: string
  power: string
}

/** One limit of a product as it is typed, with its guard. */
export interface LimitRow {
  key: number
  property: string
  direction: string
  typed: LimitTyped
  isGuarded: boolean
  k: string
  budget: ContributionTyped[]
}

/** One test of a product as it is typed. */
export interface TestRow {
  key: number
  method: MethodLine
  parameters: Record<string, unknown>
  limits: LimitRow[]
  state: 'original' | 'wet'
  /** Stages of conditioning of its own; null where the method's are meant. */
  stages: StageTyped[] | null
}

/** Later than those of any page before: a draft brings its keys along. */
let keys = Date.now()
const nextKey = () => (keys += 1)

export const newContribution = (): ContributionTyped => ({
  name: '',
  value: '',
  kind: 'standard',
  amount: '',
  k: '2',
  power: '1',
})

/** A limit that is added: on the first property without one, to be filled in. */
export function newLimit(method: MethodLine, property?: string): LimitRow {
  const of = method.properties.find((each) => each.name === property) ?? method.properties[0]
  return {
    key: nextKey(),
    property: of?.name ?? '',
    direction: method.directions[0] ?? '',
    typed: { kind: kindsFor(of?.statistic ?? 'mean', of?.unit ?? '')[0]!, first: '', second: '' },
    isGuarded: false,
    k: '2',
    budget: [],
  }
}

export const newTest = (method: MethodLine): TestRow => ({
  key: nextKey(),
  method,
  parameters: {},
  limits: [newLimit(method)],
  state: 'original',
  stages: null,
})

/** A test of a specification as the form shows it. */
export function typedTest(test: Schemas['TestRequest'], method: MethodLine): TestRow {
  const limits = (test.limits ?? []).map((limit) => ({
    ...newLimit(method, limit.property),
    direction: limit.direction,
    typed: typedFrom(limit.criterion as never, 'mean >='),
    isGuarded: Boolean(limit.guard),
    k: String(limit.guard?.k ?? 2),
    budget: (limit.guard?.budget ?? []).map(typedContribution),
  }))
  return {
    key: nextKey(),
    method,
    parameters: { ...test.parameters },
    limits,
    state: test.state ?? 'original',
    stages: test.stages ? typedStages(test.stages) : null,
  }
}

function typedContribution(part: Schemas['Contribution']): ContributionTyped {
  const kinds = ['standard', 'half_interval', 'expanded'] as const
  const kind = kinds.find((each) => part[each] !== null && part[each] !== undefined) ?? 'standard'
  return {
    name: part.name,
    value: String(part.value),
    kind,
    amount: String(part[kind] ?? ''),
    k: String(part.k),
    power: String(part.power),
  }
}

const figure = (text: string) => Number(text.trim().replace(',', '.'))

/** A limit as it is sent; null where nothing was typed. */
export function limitOf(row: LimitRow): Schemas['LimitRequest'] | null {
  const limit = limitFrom(row.property, row.direction, row.typed)
  if (!limit) return null
  if (!row.isGuarded) return limit
  const budget = row.budget
    .filter((part) => part.name.trim())
    .map((part) => ({
      name: part.name.trim(),
      value: figure(part.value),
      power: figure(part.power),
      k: figure(part.k),
      [part.kind]: figure(part.amount),
    }))
  return { ...limit, guard: { k: figure(row.k), budget } }
}

/** A test as it is sent: what was left open is left out. */
export function testOf(row: TestRow): Schemas['TestRequest'] {
  return {
    method: row.method.id,
    parameters: Object.fromEntries(
      Object.entries(row.parameters).filter(([, value]) => value !== undefined),
    ),
    limits: row.limits.map(limitOf).filter((limit) => limit !== null),
    state: row.state,
    stages: row.stages && stagesOf(row.stages),
  }
}
