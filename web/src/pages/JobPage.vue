<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { type JudgedRow } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import LimitRule from '@/components/LimitRule.vue'
import LimitsLeaf from '@/components/LimitsLeaf.vue'
import PreparationList from '@/components/PreparationList.vue'
import SheetDrawing from '@/components/SheetDrawing.vue'
import { usedMm } from '@/composables/areas'
import StagePath from '@/components/StagePath.vue'
import VerdictWord from '@/components/VerdictWord.vue'
import WorkingSlip from '@/components/WorkingSlip.vue'
import { useNow } from '@/composables/clock'
import { useKeys } from '@/composables/keys'
import { useJob, useSheet } from '@/composables/queries'
import { due, moment, named, shortMoment } from '@/composables/words'
import { placeOf } from '@/router'

const props = defineProps<{ id: number }>()
const job = useJob(props.id)
const sheet = useSheet(props.id)
const now = useNow()
const router = useRouter()
const slip = ref(false)
const opened = ref<JudgedRow | null>(null)
const limitsOpen = ref(false)
const limitsOf = ref(0)

const next = computed(() => {
  const told = job.data.value
  return told ? { words: told.next_words, to: placeOf(told.next_place, told.id) } : null
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

function soFar(row: JudgedRow): string {
  return row.to_go > 0 ? `${row.to_go} to go` : 'all tested'
}

useKeys(() => [
  {
    key: 'Enter',
    says: next.value?.words ?? 'go on',
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
          {{ job.data.value.number }} · lot {{ job.data.value.lot }} · received
          {{ moment(job.data.value.received_at) }} by {{ job.data.value.received_by }}
        </p>
        <h1>{{ job.data.value.product }}</h1>
        <p class="quiet">
          {{ job.data.value.client }} · {{ job.data.value.material }} ·
          {{ job.data.value.arrived }}, {{ job.data.value.arrival_state }}
        </p>
      </div>
      <div class="then">
        <router-link v-if="next" class="act main" :to="next.to"
          >{{ next.words }} <kbd>Enter</kbd></router-link
        >
        <p v-if="late" class="small" :class="late.late ? 'late' : 'quiet'">
          due {{ moment(job.data.value.due_at) }}, {{ late.words }}
        </p>
      </div>
    </header>
    <p v-if="job.data.value.correcting" class="correcting">
      A correction is open: {{ job.data.value.correcting }}
    </p>
    <p
      v-for="one in job.data.value.tests.filter((test) => test.trouble)"
      :key="one.id"
      class="flag"
    >
      {{ one.title }} cannot be computed: {{ one.trouble }}
    </p>
    <StagePath :job="job.data.value" />
    <PreparationList v-if="!someTested" :job="job.data.value" class="early" />

    <table class="ruled results">
      <thead>
        <tr>
          <th>Property</th>
          <th>Direction</th>
          <th class="wide">Against the limit</th>
          <th class="right">Mean</th>
          <th>Limit</th>
          <th>So far</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="test in job.data.value.tests" :key="test.id">
          <tr v-if="test.rows.length === 0">
            <td>
              <strong>{{ test.title }}</strong>
              <router-link class="small mono method" :to="`/methods/${test.method}`">{{
                test.method
              }}</router-link>
            </td>
            <td colspan="4" class="quiet">
              {{
                test.to_go ? 'no readings yet' : 'its readings have no summary; see them one by one'
              }}
            </td>
            <td class="nowrap">
              <router-link :to="`/readings/${id}`">readings</router-link>
            </td>
          </tr>
          <tr v-for="(row, place) in test.rows" :key="row.group + row.property">
            <td>
              <template v-if="place === 0 || test.rows[place - 1]!.property !== row.property">
                <strong>{{ row.title }}</strong>
                <router-link
                  v-if="place === 0"
                  class="small mono method"
                  :to="`/methods/${test.method}`"
                  >{{ test.method }}</router-link
                >
              </template>
            </td>
            <td>{{ row.group }}</td>
            <td><LimitRule v-if="row.rule" :rule="row.rule" /></td>
            <td class="right mono">
              <button v-if="row.summary" class="plain figure-button" @click="show(row)">
                {{ row.summary.qualifier }} {{ row.summary.reported ?? 'none yet' }}&nbsp;{{
                  row.unit
                }}
              </button>
              <span v-else class="quiet">–</span>
            </td>
            <td class="mono nowrap">
              <button
                v-if="!job.data.value.released"
                class="plain figure-button"
                :title="`Change the limits of ${test.title}`"
                @click="changeLimits(test.id)"
              >
                {{ row.limit_words }}
              </button>
              <template v-else>{{ row.limit_words }}</template>
            </td>
            <td class="nowrap"><VerdictWord :verdict="row.verdict" :open="soFar(row)" /></td>
          </tr>
          <tr
            v-for="flag in test.flags.filter((one) => one.code !== 'too-few-valid')"
            :key="flag.text"
          >
            <td />
            <td colspan="5" class="small">{{ flag.text }}</td>
          </tr>
        </template>
      </tbody>
    </table>

    <PreparationList v-if="someTested" :job="job.data.value" class="late-part" />
    <div class="lower">
      <section v-if="sheet.data.value?.specimens.length" class="sheet-part">
        <h3>
          Sheet
          <router-link :to="`/cutting/${id}`" class="small">open</router-link>
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
        <h3>What happened</h3>
        <ol class="events">
          <li v-for="event in job.data.value.events" :key="event.at + event.words">
            <span class="mono quiet small">{{ shortMoment(event.at) }}</span>
            <span>{{ event.words }}</span>
          </li>
        </ol>
      </section>
    </div>
    <WorkingSlip
      v-model="slip"
      :title="opened ? named(opened) : ''"
      :lines="opened?.working ?? []"
    />
    <LimitsLeaf
      v-if="job.data.value.tests.find((one) => one.id === limitsOf)"
      v-model="limitsOpen"
      :test="job.data.value.tests.find((one) => one.id === limitsOf)!"
    />
  </template>
</template>

<style scoped>
.method {
  display: block;
  white-space: nowrap;
  color: var(--ink-2);
  text-decoration: none;
}

.head {
  display: flex;
  gap: 30px;
  align-items: start;
  justify-content: space-between;
  margin-bottom: 16px;
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

.wide {
  width: 42%;
}

.nowrap {
  white-space: nowrap;
}

.figure-button {
  min-height: 32px;
  border-bottom: 1.5px dotted var(--ink-3);
  font-weight: 700;
  white-space: nowrap;
}

td.nowrap .figure-button {
  font-weight: 400;
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

.events {
  margin: 0;
  padding: 0;
  list-style: none;
}

.events li {
  display: grid;
  grid-template-columns: 128px 1fr;
  gap: 10px;
  padding: 4px 0;
  line-height: 1.35;
}
</style>
