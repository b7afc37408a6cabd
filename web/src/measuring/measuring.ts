import { t } from '@/ui/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { ask, client, Problem, sentence, type Schemas } from '@/api/client'
import { keepAnswer } from '@/api/queries'
import { withPoint } from '@/ui/numbers'

type View = Schemas['MeasuringView']
type Specimen = Schemas['MeasuredSpecimen']

/**
 * The measuring of one test: which specimen and which place is next, and what is done with a reading.
 * `focus` puts the caret back into the field; `leave` goes to another screen.
 */
export function useMeasuring(
  id: number,
  first: number | null,
  focus: () => void,
  leave: (path: string) => void,
) {
  const queries = useQueryClient()
  const query = useQuery({
    queryKey: ['measuring', id],
    queryFn: () =>
      ask(client.GET('/api/tests/{test_id}/measuring', { params: { path: { test_id: id } } })),
  })
  const view = computed(() => query.data.value ?? null)
  const picked = ref<number | null>(first)
  const place = ref<{ field: string; place: number } | null>(null)
  const typed = ref('')
  const refused = ref('')
  const busy = ref(false)
  const used = ref(new Set<string>())
  const masses = ref('')

  const specimens = computed(() => view.value?.specimens ?? [])
  const measured = computed(() => specimens.value.filter((specimen) => specimen.done).length)
  const current = computed<Specimen | null>(
    () =>
      specimens.value.find((specimen) => specimen.id === picked.value) ??
      specimens.value.find((specimen) => specimen.open && !specimen.done && specimen.called) ??
      specimens.value.find((specimen) => specimen.open && !specimen.done) ??
      specimens.value[0] ??
      null,
  )
  const round = ref(false)
  watch(
    () => current.value?.id,
    () => {
      place.value = null
      round.value = Boolean(
        current.value?.sizes.some((size) => size.instead && size.readings.length),
      )
      focus()
    },
  )
  const hasRound = computed(() => current.value?.sizes.some((size) => size.instead) ?? false)
  const sizes = computed(
    () =>
      current.value?.sizes.filter((size) => !hasRound.value || size.instead === round.value) ?? [],
  )
  /** The first place that was not read yet. */
  const nextPlace = computed(() => {
    for (const size of sizes.value)
      if (size.readings.length < size.places_mm.length)
        return { field: size.field, place: size.readings.length }
    return null
  })
  const at = computed(() => place.value ?? nextPlace.value)
  const size = computed(() => sizes.value.find((size) => size.field === at.value?.field) ?? null)
  const gauge = computed(
    () => view.value?.gauges.find((specimen) => specimen.kind === size.value?.gauge) ?? null,
  )
  const balance = computed(
    () => view.value?.gauges.find((gauge) => gauge.kind === 'balance') ?? null,
  )
  const remarks = computed(() =>
    sizes.value.flatMap((size) => size.remarks.map((remark) => ({ ...remark, title: size.title }))),
  )
  const allDone = computed(() =>
    specimens.value.every((specimen) => !specimen.called || specimen.done || !specimen.open),
  )

  const keep = (asking: Promise<View>) => keepAnswer(queries, ['measuring', id], asking)
  /** What waits for a reason, because it enters a figure that was computed already. */
  const waits = ref<((reason: string) => void) | null>(null)
  async function work(todo: (reason: string) => Promise<void>, reason = '') {
    refused.value = ''
    busy.value = true
    try {
      await todo(reason)
    } catch (error) {
      refused.value = sentence(error)
      if (error instanceof Problem && error.code === 'needs-reason')
        waits.value = (why) => void work(todo, why)
      await query.refetch()
    } finally {
      busy.value = false
      focus()
    }
  }

  async function store(specimen: Specimen, changed: Record<string, number[]>, reason: string) {
    const dimensions = Object.fromEntries(specimen.sizes.map((each) => [each.field, each.readings]))
    await keep(
      ask(
        client.PUT('/api/specimens/{specimen_id}/dimensions', {
          params: { path: { specimen_id: specimen.id } },
          body: {
            dimensions: { ...dimensions, ...changed },
            with_gauges: [...used.value],
            revision: specimen.revision,
            reason,
          },
        }),
      ),
    )
  }
  async function take(value: number, reason: string) {
    const specimen = current.value
    const where = at.value
    if (!specimen || !where || !size.value) return
    const readings = [...size.value.readings]
    readings[where.place] = value
    picked.value = specimen.id
    await store(specimen, { [where.field]: readings }, reason)
    place.value = null
    if (nextPlace.value || remarks.value.length) return
    // The next specimen, unless there is something to look at on this one.
    picked.value = null
  }

  function enter() {
    const text = withPoint(typed.value)
    if (!text) {
      if (!nextPlace.value) forward()
      return
    }
    const value = Number(text)
    if (!Number.isFinite(value)) {
      refused.value = t('measuring.is-not-a-number-enter-a-dimension-in-mm', {
        text: text.slice(0, 20),
      })
      return
    }
    void work(async (reason) => {
      await take(value, reason)
      typed.value = ''
    })
  }
  function readGauge() {
    const specimen = current.value
    const from = gauge.value
    if (!specimen || !from || !at.value || busy.value) return
    let read: number | null = null
    void work(async (reason) => {
      if (read === null) {
        const answer = await ask(
          client.POST('/api/gauges/{gauge_id}/read', {
            params: { path: { gauge_id: from.id } },
            body: { specimen_id: specimen.id, field: at.value!.field },
          }),
        )
        used.value.add(answer.gauge)
        read = answer.value
      }
      await take(read, reason)
    })
  }
  function takeBack() {
    const specimen = current.value
    const last = [...sizes.value].reverse().find((each) => each.readings.length)
    if (!specimen || !last || busy.value) return
    picked.value = specimen.id
    void work((reason) => store(specimen, { [last.field]: last.readings.slice(0, -1) }, reason))
  }
  function forward() {
    const next = specimens.value.find(
      (specimen) =>
        specimen.open && !specimen.done && specimen.called && specimen.id !== current.value?.id,
    )
    if (next) picked.value = next.id
    else if (view.value) leave(`/bench/${view.value.job_id}`)
  }
  function step(by: number) {
    const placeNow = specimens.value.findIndex((specimen) => specimen.id === current.value?.id)
    const next = specimens.value[placeNow + by]
    if (next) picked.value = next.id
  }

  function weighBlanks(grams: number[]) {
    void work(async (reason) => {
      await keep(
        ask(
          client.POST('/api/tests/{test_id}/grammage', {
            params: { path: { test_id: id } },
            body: { masses_g: grams, revision: view.value!.revision, reason },
          }),
        ),
      )
      masses.value = ''
    })
  }
  function chooseRule() {
    const area_rule = view.value!.area_rule === 'mean' ? 'minimum' : 'mean'
    void work(
      async () =>
        await keep(
          ask(
            client.PUT('/api/tests/{test_id}/area-rule', {
              params: { path: { test_id: id } },
              body: { area_rule, revision: view.value!.revision },
            }),
          ),
        ),
    )
  }
  function readBalance() {
    const from = balance.value
    const specimen = current.value
    if (!from || !specimen) return
    void work(async () => {
      const answer = await ask(
        client.POST('/api/gauges/{gauge_id}/read', {
          params: { path: { gauge_id: from.id } },
          body: { specimen_id: specimen.id, field: 'mass' },
        }),
      )
      masses.value = `${masses.value} ${answer.value}`.trim()
    })
  }
  const simulate = (fault: string) =>
    work(async () => {
      await ask(
        client.POST('/api/gauges/{gauge_id}/simulation', {
          params: { path: { gauge_id: gauge.value!.id } },
          body: { fault },
        }),
      )
    })

  return {
    query,
    view,
    specimens,
    measured,
    current,
    picked,
    place,
    typed,
    refused,
    waits,
    busy,
    masses,
    round,
    hasRound,
    sizes,
    at,
    size,
    gauge,
    balance,
    remarks,
    allDone,
    enter,
    readGauge,
    takeBack,
    step,
    weighBlanks,
    chooseRule,
    readBalance,
    simulate,
  }
}
