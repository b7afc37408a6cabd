<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask, client } from '@/api/client'
import { useAct, useMethods } from '@/api/queries'
import { placeOf } from '@/app/router'
import PromiseLine from '@/jobs/PromiseLine.vue'
import { useReception } from '@/jobs/reception'
import RequestedTests from '@/jobs/RequestedTests.vue'
import SampleForm from '@/jobs/SampleForm.vue'
import VariantsField from '@/jobs/VariantsField.vue'
import { useProducts } from '@/products/products'
import ActButton from '@/ui/ActButton.vue'
import DateField from '@/ui/DateField.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { vFocus } from '@/ui/focus'
import RefusalNote from '@/ui/RefusalNote.vue'

/** The counter: what arrived, what is asked of it, and by which limits. */
const route = useRoute()
const router = useRouter()
const methods = useMethods()
const { act, refused, busy } = useAct()
const counter = useQuery({
  queryKey: ['counter'],
  queryFn: () => ask(client.GET('/api/counter')),
})
const reception = useReception(
  String(route.query.width ?? '1480'),
  () => methods.data.value ?? [],
  new URLSearchParams(route.query as Record<string, string>).toString(),
)
const { sample, form, damp, requested, comparison, variants, reports, specified } = reception
const { needs, looking, draft } = reception
let isBegun = false
const tried = ref(false)
const need = (value: string) => (tried.value && !value.trim() ? 'required' : undefined)

/** Products in force, as far as the words that are typed find them. */
const soughtProduct = ref('')
const sought = refDebounced(soughtProduct, 250)
const productsFound = useProducts(sought, ref('in-force'))
const productChoices = computed(() =>
  (productsFound.data.value?.pages[0]?.products ?? []).map((each) => ({
    value: each.in_force_id,
    title: t('jobs.in-force-client-revision', {
      name: each.name,
      client: each.client,
      revision: each.in_force,
    }),
  })),
)
const choose = (id: number | null) => act(() => reception.choose(id))
const copy = (jobId: number) => act(() => reception.copy(jobId))
/** A scanner types a lot and ends with Enter: a lot that was here before brings what it was. */
async function scanned() {
  const job = counter.data.value?.lots[sample.lot.trim()]
  if (job && !sample.client && !sample.product) await copy(job)
}
watch(
  methods.data,
  async (known) => {
    if (!known || isBegun) return
    isBegun = true
    reception.want(String(route.query.tests ?? '').split(','))
    if (!requested.value.length && route.query.like) await copy(Number(route.query.like))
    draft.begin()
  },
  { immediate: true },
)

async function receive() {
  tried.value = true
  if (!reception.request()) return
  await act(async () => {
    const job = await reception.receive()
    if (job)
      await router.push(
        job.study_id ? `/studies/${job.study_id}` : placeOf(job.next_screen, job.id),
      )
  })
}
</script>

<template>
  <form class="counter" @submit.prevent="receive">
    <header>
      <h1>{{ t('jobs.receive-sample') }}</h1>
      <ActButton kind="main" :disabled="busy">
        {{ busy ? t('jobs.saving') : t('jobs.receive-sample') }} <kbd>{{ t('jobs.enter') }}</kbd>
      </ActButton>
    </header>
    <DraftNote :draft="draft" />
    <RefusalNote v-model="refused" />
    <datalist id="known-clients">
      <option v-for="each in counter.data.value?.clients ?? []" :key="each" :value="each" />
    </datalist>
    <datalist id="lots">
      <option v-for="(_, lot) in counter.data.value?.lots ?? {}" :key="lot" :value="lot" />
    </datalist>
    <datalist id="known-materials">
      <option v-for="each in counter.data.value?.materials ?? []" :key="each" :value="each" />
    </datalist>
    <div class="halves">
      <section>
        <h2>
          {{ t('jobs.sample') }}
          <ActButton
            v-if="counter.data.value?.last_job_id"
            type="button"
            kind="link"
            class="small"
            @click="copy(counter.data.value.last_job_id)"
          >
            {{ t('jobs.copy-from-last-job') }}
          </ActButton>
        </h2>
        <v-autocomplete
          v-if="counter.data.value?.products"
          v-model:search="soughtProduct"
          :model-value="specified?.id ?? null"
          :items="productChoices"
          no-filter
          :label="t('jobs.product-specification-optional')"
          clearable
          @update:model-value="choose"
        />
        <p v-if="specified?.gone.length" class="too-small" role="alert">
          {{
            t('jobs.the-specification-names-which-no-longer', { gone: specified.gone.join(', ') })
          }}
        </p>
        <div class="pair">
          <v-text-field
            v-model="sample.client"
            v-focus
            :label="t('jobs.client')"
            list="known-clients"
            :error-messages="need(sample.client)"
          />
          <v-text-field
            v-model="sample.lot"
            :label="t('jobs.lot')"
            list="lots"
            :error-messages="need(sample.lot)"
            @keydown.enter.prevent="scanned"
          />
        </div>
        <v-text-field
          v-model="sample.product"
          :label="t('jobs.product')"
          :error-messages="need(sample.product)"
        />
        <v-text-field
          v-model="sample.material"
          :label="t('jobs.material-with-mass-if-known')"
          list="known-materials"
          :error-messages="need(sample.material)"
        />
        <div class="pair">
          <v-text-field
            v-model="sample.order_number"
            :label="t('jobs.order-number-optional')"
            maxlength="60"
          />
          <v-text-field
            v-model="sample.client_reference"
            :label="t('jobs.clients-reference-optional')"
            maxlength="60"
          />
        </div>
        <v-text-field v-model="sample.arrival_state" :label="t('jobs.state-on-arrival')" />
        <v-checkbox v-model="damp" :label="t('jobs.arrived-damp-or-wet')" />
        <RequestedTests
          v-model:requested="requested"
          v-model:comparison="comparison"
          :form="form"
          :methods="methods.data.value ?? []"
          :materials="counter.data.value?.melt_materials ?? []"
          :tried="tried"
        />
      </section>
      <section>
        <SampleForm v-model:form="form" v-model:sample="sample" :tried="tried" />
        <VariantsField
          v-model:variants="variants"
          v-model:reports="reports"
          :form="form"
          :requested="requested"
        />
        <p v-if="needs && !needs.fits" class="too-small" role="alert">
          {{ needs.relaxation }}.
          <template v-if="needs.fitting.length">{{
            t('jobs.these-fit', { fitting: needs.fitting.join(', ') })
          }}</template>
        </p>
        <p v-else-if="needs?.length_needed_mm" class="quiet" :class="{ looking }">
          <i18n-t keypath="jobs.these-tests-need" scope="global"
            ><template #length
              ><span class="mono">{{ Math.ceil(needs.length_needed_mm) }} mm</span></template
            ></i18n-t
          >
        </p>
        <p v-for="line in needs?.usage ?? []" :key="line" class="quiet small">{{ line }}</p>
        <DateField v-model="sample.due" with-time :label="t('jobs.due')" />
        <PromiseLine :form="form" :requested="requested" />
      </section>
    </div>
  </form>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.halves {
  display: grid;
  grid-template-columns: minmax(0, 1.25fr) minmax(340px, 1fr);
  gap: 0 56px;
}

section {
  display: grid;
  gap: 14px;
  align-content: start;
}

h2 {
  margin-top: 12px;
}

.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}

.too-small {
  padding: 9px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

.looking {
  opacity: 0.5;
}

@media (max-width: 1100px) {
  .halves {
    grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
    gap: 0 30px;
  }
}

@media (max-width: 860px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
