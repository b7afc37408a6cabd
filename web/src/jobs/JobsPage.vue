<script setup lang="ts">
import { counted, t } from '@/ui/words'
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
  { value: 'late', title: t('jobs.late'), none: t('jobs.no-job-is-late') },
  {
    value: 'mine',
    title: t('jobs.received-by-me'),
    none: t('jobs.you-received-none-of-these-jobs'),
  },
  {
    value: 'waiting',
    title: t('jobs.waiting-for-conditioning'),
    none: t('jobs.no-job-is-waiting-for-conditioning'),
  },
  { value: 'on-hold', title: t('jobs.on-hold-2'), none: t('jobs.no-test-is-on-hold') },
]
const jobs = useJobs(requested)
const now = useNow()

const TITLES: Record<string, [string, string]> = {
  cutting: [t('jobs.to-cut'), t('jobs.no-sheet-is-waiting-to-be-cut-a-new')],
  bench: [t('jobs.to-test'), t('jobs.nothing-is-ready-for-the-bench')],
  judge: [t('jobs.to-review'), t('jobs.nothing-is-waiting-for-review-a-job')],
}
const lines = computed(() => jobs.data.value?.pages.flatMap((page) => page.jobs) ?? [])
const total = computed(() => jobs.data.value?.pages[0]?.total ?? 0)
const isNarrowed = computed(
  () => sought.value.trim() !== '' || requested.value.state === 'released' || only.value !== null,
)
const none = computed(() => {
  if (sought.value.trim())
    return t('jobs.no-job-contains-all-of-these-words', {
      state: requested.value.state,
      sought: sought.value.trim(),
    })
  return CHIPS.find((chip) => chip.value === only.value)?.none ?? t('jobs.no-job-is-released-yet')
})
const title = computed(() => (props.place ? TITLES[props.place]![0] : t('jobs.jobs')))
function open(id: number, nextPlace: string) {
  void router.push(props.place ? placeOf(nextPlace, id) : `/jobs/${id}`)
}

const field = ref<{ focus(): void } | null>(null)
const flip = () => (state.value = state.value === 'open' ? 'released' : 'open')

useKeys(() => [
  { key: 'n', text: t('jobs.receive-a-sample'), act: () => void router.push('/jobs/new') },
  { key: 'w', text: t('jobs.required-sample-size'), act: () => void router.push('/send') },
  { key: 'f', text: t('jobs.find-a-job'), act: () => field.value?.focus() },
  { key: 'r', text: t('jobs.open-or-released-jobs'), act: flip },
])
</script>

<template>
  <header class="head">
    <h1>{{ title }}</h1>
    <div v-if="!place" class="acts">
      <ActButton to="/send">{{ t('jobs.required-sample-size-2') }} <kbd>W</kbd></ActButton>
      <ActButton v-if="lines.length || isNarrowed" kind="main" to="/jobs/new"
        >{{ t('jobs.receive-sample') }} <kbd>N</kbd></ActButton
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
      :label="t('jobs.find-by-number-client-product-lot-or')"
      maxlength="120"
    />
    <v-radio-group v-if="!place" v-model="state" inline :aria-label="t('jobs.which-jobs')">
      <v-radio v-for="known in ['open', 'released']" :key="known" :value="known" :label="known" />
    </v-radio-group>
    <v-chip-group v-model="only" :aria-label="t('jobs.show-only')">
      <v-chip v-for="chip in CHIPS" :key="chip.value" :value="chip.value" filter>{{
        chip.title
      }}</v-chip>
    </v-chip-group>
    <p v-if="jobs.data.value" class="small quiet count" role="status">
      {{ counted('jobs.jobs-in-all', total) }}
    </p>
  </div>
  <FromRecord v-if="!jobs.data.value" :query="jobs" />
  <StateNote
    v-else-if="lines.length === 0 && isNarrowed"
    :title="t('jobs.no-job-is-found')"
    :text="none"
  />
  <StateNote
    v-else-if="lines.length === 0 && place"
    :title="t('jobs.no-jobs-here')"
    :text="TITLES[place]![1]"
  >
    <ActButton to="/jobs">{{ t('jobs.all-jobs') }}</ActButton>
  </StateNote>
  <StateNote
    v-else-if="lines.length === 0"
    :title="t('jobs.no-samples-received-yet')"
    :text="t('jobs.a-job-starts-at-the-counter-client')"
  >
    <ActButton kind="main" to="/jobs/new">{{ t('jobs.receive-first-sample') }}</ActButton>
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
    {{ jobs.isFetchingNextPage.value ? t('jobs.loading-more') : t('jobs.show-more-of', { total }) }}
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
