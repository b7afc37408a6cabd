import { computed, reactive, ref } from 'vue'
import { ask, client, type JobView, type MethodLine, type Schemas } from '@/api/client'
import { useRequiredSize } from '@/jobs/requiredSize'
import { emptySample, missingOf, sizesOf } from '@/jobs/typedSample'
import { variantsOf, type TypedVariant } from '@/jobs/variants'
import { newlyRequested, requestOf, requestedOf, type Requested } from '@/jobs/requested'
import { useDraft } from '@/ui/drafts'
import { figureFrom } from '@/ui/numbers'

/** A sample at the counter: what is typed about it, what it needs, and the request that is sent. */
export function useReception(width: string, methods: () => MethodLine[], name = '') {
  let requestKey: string = crypto.randomUUID()
  const sample = reactive(emptySample(width))
  const form = ref<Schemas['SampleRequest']['form']>('sheet')
  const damp = ref(false)
  const requested = ref<Requested[]>([])
  const comparison = ref<Schemas['SampleRequest']['comparison']>(null)
  const labels = ref<Schemas['SampleRequest']['label_school']>(null)
  const variants = ref<TypedVariant[]>([])
  const reports = ref<'one' | 'each'>('each')
  /** The product whose specification fills the rest in. */
  const specified = ref<Schemas['ProductView'] | null>(null)

  /** What is typed, as it is kept on this computer: each method by its id. */
  const draft = useDraft(
    () => `sample/${name}`,
    () => ({
      sample,
      form: form.value,
      damp: damp.value,
      requested: requested.value.map(({ method, ...rest }) => ({ ...rest, method: method.id })),
      comparison: comparison.value,
      labels: labels.value,
      variants: variants.value,
      reports: reports.value,
      specified: specified.value,
      requestKey,
    }),
    (kept) => {
      Object.assign(sample, kept.sample)
      form.value = kept.form
      damp.value = kept.damp
      comparison.value = kept.comparison
      labels.value = kept.labels
      variants.value = kept.variants
      reports.value = kept.reports
      specified.value = kept.specified
      requestKey = kept.requestKey
      requested.value = kept.requested.flatMap(({ method: id, ...rest }) => {
        const method = methodOf(id)
        return method ? [{ ...rest, method }] : []
      })
    },
  )
  const methodOf = (id: string) => methods().find((method) => method.id === id)

  function want(ids: string[]) {
    for (const method of ids.map(methodOf)) if (method) requested.value.push(newlyRequested(method))
  }
  function fillIn(chosen: Schemas['JobSpecification'] | Schemas['ProductView']) {
    const own = chosen.specification as Schemas['Specification']
    Object.assign(sample, { client: chosen.client, product: chosen.name, material: own.material })
    form.value = own.form
    comparison.value = own.comparison ?? null
    labels.value = own.label_school ?? null
    requested.value = own.tests.flatMap((test) => {
      const method = methodOf(test.method)
      return method ? [requestedOf(test, method)] : []
    })
  }
  /** Fill in what a product asks for; none leaves what is typed. */
  async function choose(product_id: number | null) {
    if (product_id === null) {
      specified.value = null
      return
    }
    const params = { path: { product_id } }
    const page = await ask(client.GET('/api/products/{product_id}', { params }))
    specified.value = page.product
    fillIn(page.product)
  }
  /** All that another job asks for, but for its lot and its day. */
  async function copy(job_id: number) {
    const params = { path: { job_id } }
    fillIn(await ask(client.GET('/api/jobs/{job_id}/specification', { params })))
  }

  const sheet = computed(() => {
    const size = { width_mm: figureFrom(sample.width_mm), length_mm: figureFrom(sample.length_mm) }
    const isCut = form.value === 'sheet' && requested.value.some((test) => test.method.is_cut)
    if (!isCut || !(size.width_mm > 0) || !(size.length_mm > 0)) return null
    const tests = requested.value.map(({ method, parameters }) => ({
      method: method.id,
      parameters,
      specimens_wanted: null,
    }))
    return { ...size, seconds: 0, tests }
  })
  const { requiredSize: needs, looking } = useRequiredSize(sheet)
  const missing = computed(() => missingOf(sample, form.value))

  /** A sample that was renamed since is not one of the product that filled it in. */
  const isSpecified = () =>
    specified.value?.client === sample.client.trim() &&
    specified.value.name === sample.product.trim()

  /** What is sent, or null while something is missing. */
  function request(): Schemas['SampleRequest'] | null {
    if (missing.value.length || !requested.value.length || !sample.due) return null
    const { client: by, product, lot, material, arrival_state } = sample
    const keys = requested.value.map((test) => test.key)
    return {
      client: by,
      product,
      lot,
      material,
      arrival_state,
      order_number: sample.order_number.trim() || null,
      client_reference: sample.client_reference.trim() || null,
      damp: damp.value,
      form: form.value,
      ...sizesOf(sample, form.value),
      due_at: sample.due,
      request_key: requestKey,
      comparison: comparison.value,
      label_school: labels.value,
      product_revision: isSpecified() ? specified.value!.revision : null,
      variants: variantsOf(variants.value, form.value, keys),
      reports: reports.value,
      tests: requested.value.map(requestOf),
    }
  }
  /** Receive the sample once; null while something is missing. */
  async function receive(): Promise<JobView | null> {
    const body = request()
    const job = body && (await ask(client.POST('/api/jobs', { body })))
    if (job) draft.saved()
    return job
  }

  return {
    draft,
    sample,
    form,
    damp,
    requested,
    comparison,
    variants,
    reports,
    specified,
    want,
    choose,
    copy,
    needs,
    looking,
    request,
    receive,
  }
}
