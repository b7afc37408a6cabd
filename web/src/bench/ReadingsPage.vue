<script setup lang="ts">
import { t } from '@/ui/words'
import { useElsewhere } from '@/app/elsewhere'
import { useBringing } from '@/bench/bringing'
import FilePreview from '@/bench/FilePreview.vue'
import ReadWith from '@/bench/ReadWith.vue'
import ReadingsTable from '@/bench/ReadingsTable.vue'
import TestTabs from '@/bench/TestTabs.vue'
import TypedReadings from '@/bench/TypedReadings.vue'
import ActButton from '@/ui/ActButton.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client, type Schemas, type SpecimenView } from '@/api/client'
import FromRecord from '@/ui/FromRecord.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import SetUpPanel from '@/jobs/SetUpPanel.vue'
import VoidKeys from '@/bench/VoidKeys.vue'
import { useAct, useJob } from '@/api/queries'
import type { Schema } from '@/jobs/schema'
import { placeOf } from '@/app/router'
import { together } from '@/ui/phrases'
import { offerUndo } from '@/ui/undo'

/** Readings of the methods that are not run at the bench here: brought in as files, or typed. */
const props = defineProps<{ id: number }>()
const job = useJob(props.id)
useElsewhere(job.data)
const acting = useAct()
const { act, refused, busy } = acting

const tests = computed(() => job.data.value?.tests ?? [])
const testId = ref<number | null>(null)
const test = computed(
  () =>
    tests.value.find((test) => test.id === testId.value) ??
    tests.value.find((test) => test.to_go && !test.at_frame) ??
    tests.value.find((test) => test.to_go) ??
    tests.value[0] ??
    null,
)
const page = useQuery({
  queryKey: ['method', computed(() => test.value?.method)],
  queryFn: () =>
    ask(
      client.GET('/api/methods/{method_id}', {
        params: { path: { method_id: test.value!.method } },
      }),
    ),
  enabled: computed(() => test.value !== null),
  staleTime: Infinity,
})
const method = computed(() => (page.data.value ?? null) as Schemas['MethodPage'] | null)
const typable = computed(
  () =>
    method.value !== null &&
    !((method.value.readings_schema as Schema).required ?? []).some((name) =>
      name.startsWith('trace'),
    ),
)
const bringing = useBringing(test, acting)
const { why, instrument, files, remarks, needsWhy, bring, takeFiles } = bringing
const open = computed(() =>
  (test.value?.specimens ?? []).filter(
    (specimen) => specimen.called && specimen.run_id === null && !specimen.void,
  ),
)
const waiting = computed(() =>
  (test.value?.specimens ?? []).filter((specimen) => specimen.state === 'to-look-at'),
)
const looked = ref<SpecimenView | null>(null)

async function acceptAll() {
  const params = { path: { test_id: test.value!.id } }
  const labels = waiting.value.map((specimen) => specimen.label)
  if (await act(() => ask(client.POST('/api/tests/{test_id}/accept', { params }))))
    offerUndo(t('bench.accepted', { labels: together(labels) }), () =>
      ask(client.POST('/api/tests/{test_id}/accept/undo', { params })),
    )
}
const askForOneMore = (direction: string) =>
  act(() =>
    ask(
      client.POST('/api/tests/{test_id}/additional-specimens', {
        params: { path: { test_id: test.value!.id } },
        body: { direction },
      }),
    ),
  )
async function voidOne(code: string, remark: string) {
  const params = { path: { specimen_id: looked.value!.id } }
  const body = { code, remark }
  if (await act(() => ask(client.POST('/api/specimens/{specimen_id}/void', { params, body }))))
    looked.value = null
}
</script>

<template>
  <FromRecord v-if="!job.data.value" :query="job" />
  <template v-else-if="job.data.value">
    <header class="head">
      <div>
        <p class="mono small quiet">
          <router-link :to="`/jobs/${id}`">{{ job.data.value.number }}</router-link> ·
          {{ job.data.value.product }}
        </p>
        <h1>{{ t('bench.import-readings') }}</h1>
      </div>
      <ActButton
        v-if="job.data.value.next_screen !== 'readings'"
        :kind="!waiting.length ? 'main' : 'usual'"
        :to="placeOf(job.data.value.next_screen, id)"
        >{{ job.data.value.next_text }}</ActButton
      >
    </header>
    <p v-if="tests.length === 0" class="quiet">{{ t('bench.this-job-has-no-test') }}</p>
    <TestTabs
      v-if="tests.length > 1"
      :tests="tests"
      :open="test?.id ?? null"
      @pick="testId = $event"
    />
    <div v-if="test && method" class="halves">
      <section>
        <h2>
          {{ test.title }}
          <router-link class="mono small" :to="`/methods/${test.method}`">{{
            test.method
          }}</router-link>
        </h2>
        <p class="quiet small">
          <template v-if="test.at_frame">
            <i18n-t keypath="bench.this-method-runs" scope="global"
              ><template #bench
                ><router-link :to="`/bench/${id}`">{{
                  t('bench.at-the-bench')
                }}</router-link></template
              ></i18n-t
            >
          </template>
          <template v-else>
            {{ t('bench.this-method-has-no-bench-procedure-its') }}
          </template>
        </p>
        <ul class="cautions small">
          <li v-for="line in method.cautions" :key="line">{{ line }}</li>
        </ul>
        <SetUpPanel :test="test" />
        <ReadWith v-model="instrument" :method="test.method" />
        <form class="files" @submit.prevent="takeFiles">
          <v-file-input
            v-model="files"
            multiple
            :label="t('bench.a-test-document-json-or-csv-files-named')"
            accept=".json,.csv,.txt,.xlsx"
            prepend-icon=""
            :clearable="false"
          />
          <ActButton :kind="!typable ? 'main' : 'usual'" :disabled="busy || !files.length">
            {{ t('bench.preview-files') }}
          </ActButton>
        </form>
        <RefusalNote v-model="refused" />
        <FilePreview :bringing="bringing" :busy="busy" />
        <v-text-field
          v-if="needsWhy || why"
          v-model="why"
          :label="t('bench.reason-for-the-deviation-as-the-report')"
        />
        <ul v-if="remarks.length" class="remarks small mono">
          <li v-for="line in remarks" :key="line">{{ line }}</li>
        </ul>
        <TypedReadings
          v-if="typable && (method.by_document || open.length)"
          :key="test.id"
          :test-id="test.id"
          :method="method"
          :open="open"
          :busy="busy"
          :write="(specimen) => bring({ document: { specimens: [specimen] } })"
        />
        <p v-else-if="typable && !waiting.length" class="quiet">
          {{ t('bench.every-specimen-has-its-readings') }}
        </p>
      </section>
      <section>
        <header class="tally">
          <h2>
            {{ t('bench.of', { required: test.required - test.to_go, required2: test.required }) }}
            <span class="quiet">{{ t('bench.accepted-2') }}</span>
          </h2>
          <ActButton v-if="waiting.length" kind="main" :disabled="busy" @click="acceptAll">
            {{ t('bench.accept-all', { waiting: waiting.length }) }}
          </ActButton>
        </header>
        <ReadingsTable :test="test" @look="looked = $event" />
        <p v-if="test.specimens.length === 0" class="quiet">
          {{ t('bench.the-imported-document-names-the') }}
        </p>
        <ActButton
          v-for="(count, direction) in test.one_more"
          :key="direction"
          :disabled="busy"
          @click="askForOneMore(String(direction))"
        >
          {{ t('bench.add-replacement') }}<template v-if="direction">, {{ direction }}</template>
          <span class="mono">{{ t('bench.missing', { count }) }}</span>
        </ActButton>
        <div v-if="looked && !looked.void && !job.data.value.released" class="leaf">
          <h3>{{ looked.label }}</h3>
          <VoidKeys
            :codes="method.void_codes"
            :busy="busy"
            :quiet="looked.state === 'tested'"
            @void="voidOne"
          />
        </div>
      </section>
    </div>
  </template>
</template>

<style scoped>
.head,
.tally {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.halves {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 0 52px;
  margin-top: 14px;
}

section {
  display: grid;
  gap: 14px;
  align-content: start;
}

.cautions {
  margin: 0;
  padding: 8px 14px;
  border-left: 6px solid var(--ochre);
  background: var(--ochre-wash);
  list-style: none;
}

.files {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 12px;
  align-items: center;
}

.remarks {
  margin: 0;
  padding-left: 18px;
}

@media (max-width: 1000px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
    gap: 22px;
  }
}
</style>
