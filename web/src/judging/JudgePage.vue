<script setup lang="ts">
import { t } from '@/ui/words'
import ChangeTable from '@/judging/ChangeTable.vue'
import WithdrawDialog from '@/judging/WithdrawDialog.vue'
import JudgedArticle from '@/judging/JudgedArticle.vue'
import ReleasedReport from '@/judging/ReleasedReport.vue'
import ReleaseForm from '@/judging/ReleaseForm.vue'
import NonconformityLinks from '@/office/NonconformityLinks.vue'
import ActButton from '@/ui/ActButton.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import {
  ask,
  client,
  type JobView,
  type JudgedRow,
  type SpecimenView,
  type Schemas,
} from '@/api/client'
import FromRecord from '@/ui/FromRecord.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import VerdictWord from '@/ui/VerdictWord.vue'
import WorkingSlip from '@/ui/WorkingSlip.vue'
import { useAct } from '@/api/queries'
import { useSession } from '@/app/session'

const props = defineProps<{ id: number }>()
const { me } = useSession()
const { act, refused, busy } = useAct()
const correctOpen = ref(false)
const slip = ref(false)
const slipTitle = ref('')
const slipLines = ref<Schemas['WorkingRow'][]>([])
const traceOf = ref<SpecimenView | null>(null)

const openKey = ref('')
const keyOf = (row: JudgedRow) => `${row.property} ${row.group}`

const query = useQuery({
  queryKey: ['draft', props.id],
  queryFn: () =>
    ask(client.GET('/api/jobs/{job_id}/draft', { params: { path: { job_id: props.id } } })),
})
const draft = computed(() => query.data.value ?? null)
const job = computed(() => draft.value?.job ?? null)
/** The content that was looked at: what is signed is what was seen, not what came meanwhile. */
const seenContent = ref('')
watch(draft, (now) => {
  if (now && !seenContent.value) seenContent.value = now.content_sha256
})
const changedMeanwhile = computed(
  () => draft.value !== null && seenContent.value !== draft.value.content_sha256,
)
const lookedAgain = () => (seenContent.value = draft.value!.content_sha256)
const mayRelease = computed(() => me.value?.may.includes('release') ?? false)
const reports = computed(() => [...(job.value?.reports ?? [])].reverse())

function look(row: JudgedRow, specimen: SpecimenView) {
  const same = traceOf.value?.id === specimen.id && openKey.value === keyOf(row)
  traceOf.value = same ? null : specimen
  openKey.value = same ? '' : keyOf(row)
}

function showSlip(title: string, lines: Schemas['WorkingRow'][]) {
  slipTitle.value = title
  slipLines.value = lines
  slip.value = true
}

async function release(password: string) {
  const body = {
    password,
    revision: job.value!.revision,
    content_sha256: seenContent.value,
  }
  const params = { path: { job_id: props.id } }
  await act(() => ask(client.POST('/api/jobs/{job_id}/release', { params, body })))
}
const confirm = () =>
  act(() =>
    ask(client.POST('/api/jobs/{job_id}/confirm', { params: { path: { job_id: props.id } } })),
  )
const withdrawing = ref<JobView['reports'][number] | null>(null)
const withdraw = (report_id: number, reason: string, password: string) =>
  act(() =>
    ask(
      client.POST('/api/reports/{report_id}/withdraw', {
        params: { path: { report_id } },
        body: { reason, password },
      }),
    ),
  )
const correct = (reason: string) =>
  act(() =>
    ask(
      client.POST('/api/jobs/{job_id}/correction', {
        params: { path: { job_id: props.id } },
        body: { reason },
      }),
    ),
  )
</script>

<template>
  <FromRecord v-if="!query.data.value" :query="query" />
  <div v-else-if="draft && job" class="judge">
    <section>
      <p class="mono small quiet">
        <router-link :to="`/jobs/${id}`">{{ job.number }}</router-link>
        {{ t('judging.lot', { client: job.client, lot: job.lot }) }}
      </p>
      <h1>{{ job.product }}</h1>
      <ChangeTable
        v-if="draft.corrects && !job.released"
        :corrects="draft.corrects"
        :changes="draft.changes"
        :verdict="draft.verdict"
      />
      <template v-for="test in job.tests" :key="test.id">
        <JudgedArticle
          v-for="row in test.rows"
          :key="row.group + row.property"
          :row="row"
          :test="test"
          :looked-at="openKey === keyOf(row) ? traceOf : null"
          @look="(specimen) => look(row, specimen)"
          @working="showSlip"
        />
      </template>
    </section>

    <aside>
      <p class="quiet small">
        {{
          job.released
            ? t('judging.released-report')
            : t('judging.report-revision', { number: draft.number, revision: draft.revision })
        }}
      </p>
      <p v-if="job.released && reports[0]?.withdrawn" class="word fails withdrawn">
        {{ t('judging.withdrawn') }}
      </p>
      <p v-else class="word" :class="{ fails: draft.verdict === 'does not meet' }">
        <VerdictWord :verdict="draft.verdict" :open="t('judging.not-evaluated-yet')" />
      </p>
      <template v-if="!job.released">
        <p v-if="draft.not_by_you" class="flag">{{ draft.not_by_you }}.</p>
        <p v-else-if="draft.obstacles.length === 0">
          {{ t('judging.tested-by', { tested_by: draft.tested_by.join(', ') }) }}
          <template v-if="mayRelease">{{
            t('judging.released-by-you', { name: me?.name })
          }}</template>
          {{ t('judging.after-release-the-report-can-no-longer') }}
        </p>
        <ul v-if="draft.obstacles.length" class="obstacles">
          <li v-for="line in draft.obstacles" :key="line">{{ line }}</li>
        </ul>
        <ActButton v-if="draft.to_confirm" :disabled="busy" @click="confirm">
          {{ t('judging.confirm-supervised-tests') }}
        </ActButton>
        <div v-if="mayRelease && changedMeanwhile" class="flag">
          <p>{{ t('judging.the-draft-has-changed-since-you-opened') }}</p>
          <ActButton @click="lookedAgain">{{ t('judging.draft-checked') }}</ActButton>
        </div>
        <ReleaseForm
          v-else-if="mayRelease && !draft.not_by_you && draft.obstacles.length === 0"
          :name="me?.name ?? ''"
          :busy="busy"
          @release="release"
        />
        <p v-else-if="!mayRelease" class="quiet">
          {{ t('judging.a-reviewer-or-manager-who-did-not-test') }}
        </p>
        <RefusalNote v-model="refused" />
        <p class="drafts">
          <ActButton :href="`/api/jobs/${id}/draft/client.pdf`" target="_blank">{{
            t('judging.client-report-draft')
          }}</ActButton>
          <ActButton :href="`/api/jobs/${id}/draft.pdf`" target="_blank">{{
            t('judging.full-record-draft')
          }}</ActButton>
        </p>
      </template>
      <template v-else>
        <RefusalNote v-model="refused" />
        <template v-if="draft.verdict === 'does not meet'">
          <h3>{{ t('judging.nonconformities') }}</h3>
          <NonconformityLinks :job-id="id" />
        </template>
      </template>
      <ReleasedReport
        v-for="(report, place) in reports"
        :key="report.id"
        :report="report"
        :newest="place === 0 && job.released"
        :may-withdraw="mayRelease"
        @withdraw="withdrawing = report"
      />
      <ActButton v-if="job.released && mayRelease" @click="correctOpen = true">
        {{ t('judging.open-correction') }}
      </ActButton>
      <h3>{{ t('judging.deviations') }}</h3>
      <ul v-if="draft.deviations.length" class="deviations">
        <li v-for="line in draft.deviations" :key="line">{{ line }}</li>
      </ul>
      <p v-else class="quiet">{{ t('judging.none') }}</p>
    </aside>
    <WorkingSlip v-model="slip" :title="slipTitle" :lines="slipLines" />
    <WithdrawDialog
      :model-value="withdrawing !== null"
      :name="withdrawing ? `${withdrawing.number} revision ${withdrawing.revision}` : ''"
      @update:model-value="withdrawing = null"
      @withdraw="(reason, password) => withdrawing && withdraw(withdrawing.id, reason, password)"
    />
    <ReasonDialog
      v-model="correctOpen"
      :title="t('judging.open-correction-2')"
      :text="t('judging.the-released-report-stays-available-the')"
      :act="t('judging.open-it')"
      @given="correct"
    />
  </div>
</template>

<style scoped>
.judge {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 308px;
  gap: 34px;
  min-height: 100%;
}

.drafts {
  display: grid;
  gap: 8px;
}

.withdrawn {
  font-size: 28px;
  font-weight: 700;
}

.flag {
  margin: 6px 0;
  padding: 7px 12px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

aside {
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding-left: 26px;
  border-left: 1px solid var(--hair);
}

.word {
  padding: 12px 0;
  border: solid var(--ink);
  border-width: 2.5px 0;
}

.word .verdict {
  font-size: 27px;
  line-height: 1.1;
}

.word .verdict :deep(svg) {
  width: 26px;
  height: 26px;
}

.word.fails {
  border-color: var(--brick);
}

.obstacles,
.deviations {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0 0 0 16px;
}

@media (max-width: 1100px) {
  .judge {
    grid-template-columns: minmax(0, 1fr) 264px;
    gap: 20px;
  }

  aside {
    padding-left: 18px;
  }
}
</style>
