<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { JobLine } from '@/api/client'
import { pressed, shownOrder, type JobColumn, type JobOrder } from '@/jobs/jobOrder'
import SortHead from '@/ui/SortHead.vue'
import { placeOf } from '@/app/router'
import ActButton from '@/ui/ActButton.vue'
import VerdictWord from '@/ui/VerdictWord.vue'
import { moment } from '@/ui/dates'
import { due } from '@/ui/phrases'
import RuledTable from '@/ui/RuledTable.vue'

/** Jobs in a row each: how far on their way, against their due date, and what is next. */
const order = defineModel<JobOrder>('order', { required: true })
const props = defineProps<{ lines: JobLine[]; isReleased: boolean; now: number }>()
const shown = computed(() => shownOrder(order.value, props.isReleased))
const sortOf = (column: JobColumn) => {
  if (shown.value.sort !== column) return 'none'
  return shown.value.descending ? 'descending' : 'ascending'
}
const sort = (column: JobColumn) => (order.value = pressed(order.value, column, props.isReleased))
defineEmits<{ open: [id: number, place: string] }>()
const STAGES = ['received', 'cut', 'conditioned', 'tested', 'judged', 'released']
</script>

<template>
  <RuledTable>
    <thead>
      <tr>
        <th :aria-sort="sortOf('number')">
          <SortHead :title="t('jobs.job-2')" :sorted="sortOf('number')" @sort="sort('number')" />
        </th>
        <th :aria-sort="sortOf('product')">
          <SortHead
            :title="t('jobs.product')"
            :sorted="sortOf('product')"
            @sort="sort('product')"
          />
        </th>
        <th class="way">{{ t('jobs.progress') }}</th>
        <th class="right">{{ t('jobs.tested') }}</th>
        <th>{{ t('jobs.verdict') }}</th>
        <th :aria-sort="sortOf('due')">
          <SortHead :title="t('jobs.due')" :sorted="sortOf('due')" @sort="sort('due')" />
        </th>
        <th>{{ t('jobs.next') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="job in lines"
        :key="job.id"
        class="line"
        :class="{ done: job.stage === 'released' }"
        @click="$emit('open', job.id, job.next_screen)"
      >
        <td class="mono number">
          <router-link :to="`/jobs/${job.id}`" @click.stop>{{ job.number }}</router-link>
        </td>
        <td>
          <strong>{{ job.product }}</strong>
          <router-link
            v-if="job.study_id"
            class="variant"
            :to="`/studies/${job.study_id}`"
            @click.stop
            >{{ job.variant }}</router-link
          >
          <b v-if="job.priority > 0" class="urgent small">{{
            t('jobs.priority', { priority: job.priority })
          }}</b>
          <div class="quiet small">{{ t('jobs.lot-2', { client: job.client, lot: job.lot }) }}</div>
          <p v-if="job.problem" class="flag small">
            {{ t('jobs.cannot-be-computed-2', { problem: job.problem }) }}
          </p>
        </td>
        <td>
          <span class="dots" :title="job.stage">
            <i
              v-for="(stage, at) in STAGES"
              :key="stage"
              :class="{
                past: at < STAGES.indexOf(job.stage),
                here: stage === job.stage,
                end: stage === 'released',
              }"
            />
          </span>
          <span class="quiet small">{{ job.stage }}</span>
        </td>
        <td class="mono right">
          {{ job.tested }}<span class="quiet">/{{ job.required }}</span>
        </td>
        <td><VerdictWord :verdict="job.verdict" :open="t('jobs.open')" /></td>
        <td class="due">
          <template v-if="job.stage !== 'released'">
            <span :class="{ late: due(job.due_at, now).late }" :title="moment(job.due_at)">{{
              due(job.due_at, now).text
            }}</span>
          </template>
        </td>
        <td class="next">
          <ActButton :to="placeOf(job.next_screen, job.id)" @click.stop>{{
            job.next_text
          }}</ActButton>
        </td>
      </tr>
    </tbody>
  </RuledTable>
</template>

<style scoped>
.variant {
  margin-left: 8px;
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
  padding-right: 0;
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
