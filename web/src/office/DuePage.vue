<script setup lang="ts">
import { t } from '@/ui/words'
import { useDue } from '@/api/queries'
import type { Schemas } from '@/api/client'
import FromRecord from '@/ui/FromRecord.vue'
import RuledTable from '@/ui/RuledTable.vue'
import StateNote from '@/ui/StateNote.vue'
import { dayOf } from '@/ui/dates'

/** What is due in the laboratory within 30 days, each line leading to its place. */
type Line = Schemas['DueLine']
const due = useDue()
const KINDS: Record<Line['kind'], string> = {
  calibration: t('office.calibration'),
  check: t('office.check'),
  authorisation: t('office.authorisation'),
  consumable: t('office.consumable'),
  remainder: t('office.remainder'),
  report: t('office.report'),
  nonconformity: t('office.nonconformity'),
}
function placeOf(line: Line): string {
  if (line.nonconformity_id) return `/nonconformities?id=${line.nonconformity_id}`
  if (line.job_id) return `/jobs/${line.job_id}`
  return line.kind === 'authorisation' ? '/people' : '/instruments'
}
</script>

<template>
  <header>
    <h1>{{ t('office.due') }}</h1>
    <p class="quiet">
      {{ t('office.overdue-or-due-within-30-days') }}
      <a href="/api/due.pdf" target="_blank">{{ t('office.print') }}</a>
    </p>
  </header>
  <FromRecord v-if="!due.data.value" :query="due" />
  <StateNote
    v-else-if="!due.data.value.lines.length"
    :title="t('office.nothing-is-due')"
    :text="t('office.no-calibration-check-authorisation')"
  />
  <RuledTable v-else>
    <thead>
      <tr>
        <th>{{ t('office.due') }}</th>
        <th>{{ t('office.kind') }}</th>
        <th>{{ t('office.concerns') }}</th>
        <th>{{ t('office.what') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="line in due.data.value.lines" :key="`${line.kind} ${line.title} ${line.text}`">
        <td class="mono day" :class="{ overdue: line.overdue }">
          {{ line.due_at ? dayOf(line.due_at) : t('office.now') }}
          <span v-if="line.overdue" class="small">{{ t('office.overdue') }}</span>
        </td>
        <td>{{ KINDS[line.kind] }}</td>
        <td>
          <router-link :to="placeOf(line)">{{ line.title }}</router-link>
        </td>
        <td class="quiet">{{ line.text }}</td>
      </tr>
    </tbody>
  </RuledTable>
</template>

<style scoped>
header {
  margin-bottom: 14px;
}

.day {
  white-space: nowrap;
}

.overdue {
  color: var(--brick);
  font-weight: 700;
}

.day span {
  margin-left: 6px;
}
</style>
