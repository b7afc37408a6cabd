<script setup lang="ts">
import JobsTable from '@/jobs/JobsTable.vue'
import type { JobOrder } from '@/jobs/jobOrder'
import ActButton from '@/ui/ActButton.vue'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import FromRecord from '@/ui/FromRecord.vue'
import StateNote from '@/ui/StateNote.vue'
import { useNow } from '@/app/clock'
import { useKeys } from '@/ui/keys'
import { type JobsLookedFor, useJobs } from '@/api/queries'
import { placeOf } from '@/app/router'

/** All jobs, or only those whose next action is done at one place. */
const props = defineProps<{ place: JobsLookedFor['place'] }>()
const router = useRouter()
const search = ref('')
const state = ref<'open' | 'released'>('open')
const sought = refDebounced(search, 250)
const only = ref<JobsLookedFor['only']>(null)
const order = ref<JobOrder>({ sort: null, descending: false })
const requested = computed<JobsLookedFor>(() => ({
  place: props.place,
  state: props.place ? 'open' : state.value,
  search: sought.value.trim(),
  only: only.value,
  ...order.value,
}))
const CHIPS: { value: NonNullable<JobsLookedFor['only']>; title: string; none: string }[] = [
  { value: 'late', title: 'Late', none: 'No job is late.' },
  { value: 'mine', title: 'Received by me', none: 'You received none of these jobs.' },
  {
    value: 'waiting',
    title: 'Waiting for conditioning',
    none: 'No job is waiting for conditioning.',
  },
  { value: 'on-hold', title: 'On hold', none: 'No test is on hold.' },
]
const jobs = useJobs(requested)
const now = useNow()

const TITLES: Record<string, [string, string]> = {
  cutting: [
    'To cut',
    'No sheet is waiting to be cut. A new sample appears here once it is received.',
  ],
  bench: [
    'To test',
    'Nothing is ready for the bench. Specimens appear here once they are conditioned.',
  ],
  judge: [
    'To review',
    'Nothing is waiting for review. A job appears here when its last specimen is accepted.',
  ],
}
const lines = computed(() => jobs.data.value?.pages.flatMap((page) => page.jobs) ?? [])
const total = computed(() => jobs.data.value?.pages[0]?.total ?? 0)
const isNarrowed = computed(
  () => sought.value.trim() !== '' || requested.value.state === 'released' || only.value !== null,
)
const none = computed(() => {
  if (sought.value.trim())
    return `No ${requested.value.state} job contains all of these words: ${sought.value.trim()}.`
  return CHIPS.find((chip) => chip.value === only.value)?.none ?? 'No job is released yet.'
})
const title = computed(() => (props.place ? TITLES[props.place]![0] : 'Jobs'))
function open(id: number, nextPlace: string) {
  void router.push(props.place ? placeOf(nextPlace, id) : `/jobs/${id}`)
}

const field = ref<{ focus(): void } | null>(null)
const flip = () => (state.value = state.value === 'open' ? 'released' : 'open')

useKeys(() => [
  { key: 'n', text: 'receive a sample', act: () => void router.push('/jobs/new') },
  { key: 'w', text: 'required sample size', act: () => void router.push('/send') },
  { key: 'f', text: 'find a job', act: () => field.value?.focus() },
  { key: 'r', text: 'open or released jobs', act: flip },
])
</script>

<template>
  <header class="head">
    <h1>{{ title }}</h1>
    <div v-if="!place" class="acts">
      <ActButton to="/send">Required sample size <kbd>W</kbd></ActButton>
      <ActButton v-if="lines.length || isNarrowed" kind="main" to="/jobs/new"
        >Receive sample <kbd>N</kbd></ActButton
      >
    </div>
  </header>
  <div v-if="lines.length || isNarrowed" class="look">
    <v-text-field
      ref="field"
      v-model="search"
      class="search"
      type="search"
      density="compact"
      label="Find by number, client, product, lot or material"
      maxlength="120"
    />
    <v-radio-group v-if="!place" v-model="state" inline aria-label="Which jobs">
      <v-radio v-for="known in ['open', 'released']" :key="known" :value="known" :label="known" />
    </v-radio-group>
    <v-chip-group v-model="only" aria-label="Show only">
      <v-chip v-for="chip in CHIPS" :key="chip.value" :value="chip.value" filter>{{
        chip.title
      }}</v-chip>
    </v-chip-group>
    <p v-if="jobs.data.value" class="small quiet count" role="status">
      {{ total }} {{ total === 1 ? 'job' : 'jobs' }}
    </p>
  </div>
  <FromRecord v-if="!jobs.data.value" :query="jobs" />
  <StateNote v-else-if="lines.length === 0 && isNarrowed" title="No job is found" :text="none" />
  <StateNote v-else-if="lines.length === 0 && place" title="No jobs here" :text="TITLES[place]![1]">
    <ActButton to="/jobs">All jobs</ActButton>
  </StateNote>
  <StateNote
    v-else-if="lines.length === 0"
    title="No samples received yet"
    text="A job starts at the counter: client, product, sample size and the limits to meet."
  >
    <ActButton kind="main" to="/jobs/new">Receive first sample</ActButton>
  </StateNote>
  <JobsTable
    v-else
    v-model:order="order"
    :lines="lines"
    :is-released="requested.state === 'released'"
    :now="now"
    @open="open"
  />
  <ActButton
    v-if="jobs.hasNextPage.value"
    class="more"
    :disabled="jobs.isFetchingNextPage.value"
    @click="jobs.fetchNextPage()"
  >
    {{ jobs.isFetchingNextPage.value ? 'Loading more …' : `Show more of ${total}` }}
  </ActButton>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
  justify-content: space-between;
  min-height: 52px;
  margin-bottom: 10px;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}

.look {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 26px;
  align-items: center;
  margin-bottom: 6px;
}

.search {
  flex: 1 1 300px;
  max-width: 460px;
}

.look .v-radio-group {
  flex: none;
}

.look .count {
  margin-left: auto;
  min-height: 40px;
  line-height: 40px;
}

.more {
  margin: 14px 0;
}
</style>
