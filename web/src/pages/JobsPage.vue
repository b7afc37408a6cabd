<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import FromRecord from '@/components/FromRecord.vue'
import StateNote from '@/components/StateNote.vue'
import VerdictWord from '@/components/VerdictWord.vue'
import { useNow } from '@/composables/clock'
import { useKeys } from '@/composables/keys'
import { useJobs } from '@/composables/queries'
import { due, moment } from '@/composables/words'
import { placeOf } from '@/router'

/** All jobs, or only those whose next action is done at one place. */
const props = defineProps<{ place: string | null }>()
const jobs = useJobs()
const now = useNow()
const router = useRouter()

const TITLES: Record<string, [string, string]> = {
  cutting: [
    'To be cut',
    'No sheet waits to be cut. A new sample appears here once it is received.',
  ],
  bench: [
    'To be tested',
    'Nothing is ready for the bench. Specimens appear here once their time is served.',
  ],
  judge: [
    'To be judged',
    'Nothing waits for a verdict. A job appears here when its last specimen is kept.',
  ],
}
const lines = computed(() =>
  (jobs.data.value ?? []).filter(
    (job) =>
      !props.place ||
      props.place === job.next_place ||
      (props.place === 'bench' && job.next_place === 'readings'),
  ),
)
const title = computed(() => (props.place ? TITLES[props.place]![0] : 'Jobs'))
const STAGES = ['received', 'cut', 'conditioned', 'tested', 'judged', 'released']

function open(id: number, nextPlace: string) {
  void router.push(props.place ? placeOf(nextPlace, id) : `/jobs/${id}`)
}

useKeys(() => [
  { key: 'n', says: 'receive a sample', act: () => void router.push('/jobs/new') },
  { key: 'w', says: 'how much to send', act: () => void router.push('/send') },
])
</script>

<template>
  <header class="head">
    <h1>{{ title }}</h1>
    <div v-if="!place" class="acts">
      <router-link class="act" to="/send">How much to send <kbd>W</kbd></router-link>
      <router-link v-if="lines.length" class="act main" to="/jobs/new"
        >Receive a sample <kbd>N</kbd></router-link
      >
    </div>
  </header>
  <FromRecord v-if="!jobs.data.value" :query="jobs" />
  <StateNote
    v-else-if="lines.length === 0 && place"
    title="Nothing waits here"
    :says="TITLES[place]![1]"
  >
    <router-link class="act" to="/jobs">All jobs</router-link>
  </StateNote>
  <StateNote
    v-else-if="lines.length === 0"
    title="Nothing was received yet"
    says="A job begins at the counter: who sends it, what it is, how large it is, and which limits it must meet."
  >
    <router-link class="act main" to="/jobs/new">Receive the first sample</router-link>
  </StateNote>
  <table v-else class="ruled">
    <thead>
      <tr>
        <th>Job</th>
        <th>Product</th>
        <th class="way">On its way</th>
        <th class="right">Tested</th>
        <th>Verdict</th>
        <th>Due</th>
        <th>Next</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="job in lines"
        :key="job.id"
        class="line"
        :class="{ done: job.stage === 'released' }"
        @click="open(job.id, job.next_place)"
      >
        <td class="mono number">
          <router-link :to="`/jobs/${job.id}`" @click.stop>{{ job.number }}</router-link>
        </td>
        <td>
          <strong>{{ job.product }}</strong>
          <div class="quiet small">{{ job.client }} · lot {{ job.lot }}</div>
          <p v-if="job.trouble" class="flag small">Cannot be computed: {{ job.trouble }}</p>
        </td>
        <td>
          <span class="dots" :title="job.stage">
            <i
              v-for="(stage, place_) in STAGES"
              :key="stage"
              :class="{
                past: place_ < STAGES.indexOf(job.stage),
                here: stage === job.stage,
                end: stage === 'released',
              }"
            />
          </span>
          <span class="quiet small">{{ job.stage }}</span>
        </td>
        <td class="mono right">
          {{ job.tested }}<span class="quiet">/{{ job.wanted }}</span>
        </td>
        <td><VerdictWord :verdict="job.verdict" open="open" /></td>
        <td class="due">
          <template v-if="job.stage !== 'released'">
            <span :class="{ late: due(job.due_at, now).late }">{{
              due(job.due_at, now).words
            }}</span>
            <div class="quiet small">{{ moment(job.due_at) }}</div>
          </template>
          <span v-else class="quiet">–</span>
        </td>
        <td class="next">
          <router-link class="act" :to="placeOf(job.next_place, job.id)" @click.stop>{{
            job.next_words
          }}</router-link>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  min-height: 52px;
  margin-bottom: 10px;
}

.acts {
  display: flex;
  gap: 12px;
  align-items: center;
}

.line {
  cursor: pointer;
}

.line:hover td {
  background: var(--sunk);
}

.done strong {
  font-weight: 500;
}

.number a {
  color: inherit;
  text-decoration: none;
  white-space: nowrap;
}

.way {
  width: 150px;
}

.dots {
  display: flex;
  align-items: center;
  margin-bottom: 3px;
}

.dots i {
  width: 9px;
  height: 9px;
  border: 1.5px solid var(--ink-3);
  border-radius: 50%;
}

.dots i + i {
  margin-left: 13px;
  box-shadow: -13px 0 0 -4px var(--ink-3);
}

.dots .past {
  border-color: var(--ink);
  background: var(--ink);
}

.dots .here {
  border: 3px solid var(--blue);
}

.dots .here.end {
  border-color: var(--ink);
  background: var(--ink);
}

.due,
.next {
  white-space: nowrap;
}

.next {
  padding-right: 0 !important;
}

.next .act {
  width: 100%;
  justify-content: flex-start;
}

.late {
  color: var(--brick);
  font-weight: 700;
}

@media (max-width: 1100px) {
  .way,
  td:nth-child(3) {
    display: none;
  }
}
</style>
