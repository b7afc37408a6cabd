<script setup lang="ts">
import { t } from '@/ui/words'
import { useElsewhere } from '@/app/elsewhere'
import ResultsTable from '@/jobs/ResultsTable.vue'
import ActButton from '@/ui/ActButton.vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client, type JudgedRow } from '@/api/client'
import FromRecord from '@/ui/FromRecord.vue'
import { useSession } from '@/app/session'
import AmendDialog from '@/jobs/AmendDialog.vue'
import CustodyPane from '@/jobs/CustodyPane.vue'
import AttachmentsPane from '@/office/AttachmentsPane.vue'
import NonconformityLinks from '@/office/NonconformityLinks.vue'
import LimitsDialog from '@/jobs/LimitsDialog.vue'
import PreparationList from '@/measuring/PreparationList.vue'
import HistoryList from '@/jobs/HistoryList.vue'
import SheetDrawing from '@/cutting/SheetDrawing.vue'
import { usedMm } from '@/cutting/areas'
import StagePath from '@/jobs/StagePath.vue'
import WorkingSlip from '@/ui/WorkingSlip.vue'
import { useNow } from '@/app/clock'
import { useKeys } from '@/ui/keys'
import { useAct, useJob, useSheet } from '@/api/queries'
import { moment } from '@/ui/dates'
import { due, named } from '@/ui/phrases'
import RefusalNote from '@/ui/RefusalNote.vue'
import { placeOf } from '@/app/router'

const props = defineProps<{ id: number }>()
const job = useJob(props.id)
useElsewhere(job.data)
const sheet = useSheet(props.id)
const now = useNow()
const router = useRouter()
const slip = ref(false)
const opened = ref<JudgedRow | null>(null)
const amending = ref(false)
const { me } = useSession()
const mayReceive = computed(() => me.value?.may.includes('receive') ?? false)
const mayAmend = computed(() => !job.data.value?.released && mayReceive.value)
const { act, refused, busy } = useAct()
const keptAs = ref('')
/** What this job asks for, as the next draft of its product. */
async function keepProduct() {
  const view = job.data.value!
  await act(async () => {
    const search = `${view.client} ${view.product}`.slice(0, 120)
    const { products } = await ask(
      client.GET('/api/products', { params: { query: { search, limit: 200 } } }),
    )
    const seen =
      products.find((each) => each.client === view.client && each.name === view.product)
        ?.revision ?? 0
    const kept = await ask(
      client.POST('/api/jobs/{job_id}/product', {
        params: { path: { job_id: view.id } },
        body: { seen },
      }),
    )
    keptAs.value = t('jobs.saved-revision', { name: kept.name, revision: kept.revision })
  })
}
const limitsOpen = ref(false)
const limitsOf = ref(0)

const next = computed(() => {
  const view = job.data.value
  return view ? { text: view.next_text, to: placeOf(view.next_screen, view.id) } : null
})
const late = computed(() =>
  job.data.value && !job.data.value.released ? due(job.data.value.due_at, now.value) : null,
)

function show(row: JudgedRow) {
  opened.value = row
  slip.value = true
}

function changeLimits(testId: number) {
  limitsOf.value = testId
  limitsOpen.value = true
}

useKeys(() => [
  {
    key: 'Enter',
    text: next.value?.text ?? t('jobs.continue'),
    act: () => next.value && void router.push(next.value.to),
  },
])
const someTested = computed(() => (job.data.value?.tested ?? 0) > 0)
</script>

<template>
  <FromRecord v-if="!job.data.value" :query="job" />
  <template v-else-if="job.data.value">
    <header class="head">
      <div>
        <p class="mono small quiet">
          {{
            t('jobs.lot-received-by', {
              number: job.data.value.number,
              lot: job.data.value.lot,
              received_at: moment(job.data.value.received_at),
              received_by: job.data.value.received_by,
            })
          }}
        </p>
        <h1>
          {{ job.data.value.product }}
          <router-link
            v-if="job.data.value.study_id"
            class="variant"
            :to="`/studies/${job.data.value.study_id}`"
            >{{ t('jobs.compare-samples', { variant: job.data.value.variant }) }}</router-link
          >
        </h1>
        <p class="quiet">
          {{ job.data.value.client }} · {{ job.data.value.material }} ·
          {{ job.data.value.arrived }}, {{ job.data.value.arrival_state }}
        </p>
      </div>
      <div class="then">
        <ActButton v-if="next" kind="main" :to="next.to"
          >{{ next.text }} <kbd>{{ t('jobs.enter') }}</kbd></ActButton
        >
        <p class="changes small">
          <ActButton v-if="mayAmend" kind="link" @click="amending = true">
            {{ t('jobs.change-hold-or-cancel') }}
          </ActButton>
          <ActButton v-if="mayReceive" kind="link" :disabled="busy" @click="keepProduct">
            {{ t('jobs.save-as-product-specification') }}
          </ActButton>
          <router-link v-if="mayReceive" :to="`/jobs/new?like=${id}`">{{
            t('jobs.duplicate')
          }}</router-link>
          <a v-if="!job.data.value.is_cut" :href="`/api/jobs/${id}/labels.pdf`" target="_blank">{{
            t('jobs.labels')
          }}</a>
        </p>
        <p v-if="keptAs" class="small quiet" role="status">{{ keptAs }}</p>
        <RefusalNote v-model="refused" />
        <p v-if="late" class="small" :class="late.late ? 'late' : 'quiet'">
          {{ t('jobs.due-2', { due_at: moment(job.data.value.due_at), text: late.text }) }}
        </p>
      </div>
    </header>
    <p v-if="job.data.value.cancelled" class="correcting">
      {{ t('jobs.cancelled', { cancelled: job.data.value.cancelled }) }}
    </p>
    <p v-if="job.data.value.client_remark">
      {{ t('jobs.clients-remarks-2', { client_remark: job.data.value.client_remark }) }}
    </p>
    <p v-if="job.data.value.order_number || job.data.value.client_reference" class="quiet small">
      <template v-if="job.data.value.order_number">{{
        t('jobs.order', { number: job.data.value.order_number })
      }}</template>
      <template v-if="job.data.value.client_reference">
        {{ t('jobs.reference', { reference: job.data.value.client_reference }) }}
      </template>
    </p>
    <p v-if="job.data.value.shelf" class="quiet small">
      {{ t('jobs.stored-at', { shelf: job.data.value.shelf }) }}
    </p>
    <p v-for="line in job.data.value.dropped" :key="line" class="quiet small">{{ line }}.</p>
    <p
      v-for="test in job.data.value.tests.filter((each) => each.held)"
      :key="`held ${test.id}`"
      class="flag"
    >
      {{ t('jobs.is-on-hold', { title: test.title, held: test.held }) }}
    </p>
    <p v-if="job.data.value.correcting" class="correcting">
      {{ t('jobs.a-correction-is-open', { correcting: job.data.value.correcting }) }}
    </p>
    <p
      v-for="test in job.data.value.tests.filter((test) => test.problem)"
      :key="test.id"
      class="flag"
    >
      {{ t('jobs.cannot-be-computed', { title: test.title, problem: test.problem }) }}
    </p>
    <StagePath :job="job.data.value" />
    <PreparationList v-if="!someTested" :job="job.data.value" class="early" />

    <ResultsTable :job="job.data.value" class="results" @working="show" @limits="changeLimits" />
    <PreparationList v-if="someTested" :job="job.data.value" class="late-part" />
    <div class="lower">
      <section v-if="sheet.data.value?.specimens.length" class="sheet-part">
        <h3>
          {{ t('jobs.sheet') }}
          <router-link :to="`/cutting/${id}`" class="small">{{ t('jobs.open') }}</router-link>
        </h3>
        <div class="mini">
          <SheetDrawing
            v-if="sheet.data.value"
            :sheet="sheet.data.value"
            :shown-mm="usedMm(sheet.data.value)"
            still
          />
        </div>
      </section>
      <section>
        <h3>{{ t('jobs.history') }}</h3>
        <HistoryList :events="job.data.value.events" />
        <CustodyPane :job-id="id" :may-write="mayReceive" />
        <AttachmentsPane subject="job" :of="id" />
        <NonconformityLinks :job-id="id" />
      </section>
    </div>
    <AmendDialog v-if="mayAmend" v-model="amending" :job="job.data.value" />
    <WorkingSlip
      v-model="slip"
      :title="opened ? named(opened) : ''"
      :lines="opened?.working ?? []"
    />
    <LimitsDialog
      v-if="job.data.value.tests.find((known) => known.id === limitsOf)"
      v-model="limitsOpen"
      :test="job.data.value.tests.find((known) => known.id === limitsOf)!"
    />
  </template>
</template>

<style scoped>
.head {
  display: flex;
  gap: 30px;
  align-items: start;
  justify-content: space-between;
  margin-bottom: 16px;
}

.changes {
  display: flex;
  align-items: baseline;
  gap: 18px;
}

.then {
  display: grid;
  gap: 6px;
  justify-items: end;
  flex: none;
}

.late {
  color: var(--brick);
  font-weight: 700;
}

.correcting {
  margin-bottom: 14px;
  padding: 8px 14px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

.results {
  margin-top: 20px;
}

.lower {
  display: grid;
  grid-template-columns: minmax(280px, 400px) minmax(0, 1fr);
  gap: 44px;
  margin-top: 24px;
}

h3 {
  display: flex;
  gap: 14px;
  align-items: baseline;
  margin-bottom: 8px;
}

.early {
  margin-top: 14px;
}

.late-part {
  margin-top: 22px;
}

.mini {
  height: 270px;
}

@media (max-width: 640px) {
  .lower {
    grid-template-columns: minmax(0, 1fr);
  }

  .then {
    width: 100%;
  }

  .head,
  .changes {
    flex-wrap: wrap;
    gap: 4px 14px;
  }
}
</style>
