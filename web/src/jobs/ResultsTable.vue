<script setup lang="ts">
import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import type { JobView, JudgedRow } from '@/api/client'
import LimitRule from '@/ui/LimitRule.vue'
import VerdictWord from '@/ui/VerdictWord.vue'
import ActButton from '@/ui/ActButton.vue'
import RuledTable from '@/ui/RuledTable.vue'

/** Property by direction, each against its limit, filling up as specimens are tested. */
defineProps<{ job: JobView }>()
defineEmits<{ working: [row: JudgedRow]; limits: [testId: number] }>()
function soFar(row: JudgedRow): string {
  if (row.to_go > 0) return t('jobs.to-go', { to_go: row.to_go })
  return row.summary && row.summary.reported === null
    ? t('jobs.not-decided-yet')
    : t('jobs.all-tested')
}
</script>

<template>
  <RuledTable>
    <thead>
      <tr>
        <th>{{ t('jobs.property') }}</th>
        <th>{{ t('jobs.direction') }}</th>
        <th class="wide">{{ t('jobs.result-and-limit') }}</th>
        <th class="right">{{ t('jobs.mean') }}</th>
        <th>{{ t('jobs.limit') }}</th>
        <th>{{ t('jobs.so-far') }}</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="test in job.tests" :key="test.id">
        <tr v-if="test.rows.length === 0">
          <td>
            <strong>{{ test.title }}</strong>
            <router-link class="small mono method" :to="`/methods/${test.method}`">{{
              test.method
            }}</router-link>
          </td>
          <td colspan="4" class="quiet">
            {{ test.to_go ? t('jobs.no-readings-yet') : t('jobs.no-summary-see-the-specimens') }}
          </td>
          <td class="nowrap">
            <router-link :to="`/readings/${job.id}`">{{ t('jobs.readings') }}</router-link>
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
            <ActButton
              v-if="row.summary"
              kind="plain"
              class="figure-button"
              @click="$emit('working', row)"
            >
              {{ row.summary.qualifier }}
              {{ signed(row.summary.reported ?? t('jobs.none')) }}&nbsp;{{ row.unit }}
            </ActButton>
            <span v-if="row.beside" class="small quiet beside">{{ signed(row.beside) }}</span>
          </td>
          <td class="mono nowrap">
            <ActButton
              v-if="!job.released"
              kind="plain"
              class="figure-button"
              :title="t('jobs.change-the-limits-of', { title: test.title })"
              @click="$emit('limits', test.id)"
            >
              {{ row.limit_text }}
            </ActButton>
            <template v-else>{{ row.limit_text }}</template>
          </td>
          <td class="nowrap"><VerdictWord :verdict="row.verdict" :open="soFar(row)" /></td>
        </tr>
        <tr
          v-for="flag in test.flags.filter((each) => each.code !== 'too-few-valid')"
          :key="flag.text"
        >
          <td />
          <td colspan="5" class="small">{{ flag.text }}</td>
        </tr>
      </template>
    </tbody>
  </RuledTable>
</template>

<style scoped>
.method {
  display: block;
  white-space: nowrap;
  color: var(--ink-2);
  text-decoration: none;
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

.beside {
  display: block;
}

td.nowrap .figure-button {
  font-weight: 400;
}
</style>
