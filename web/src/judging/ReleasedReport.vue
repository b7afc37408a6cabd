<script setup lang="ts">
import { t } from '@/ui/words'
import type { JobView } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'
import VerdictWord from '@/ui/VerdictWord.vue'
import { moment } from '@/ui/dates'

/** A report that was released: what it said, who signed it, and its open formats. */
defineProps<{ report: JobView['reports'][number]; newest: boolean; mayWithdraw: boolean }>()
defineEmits<{ withdraw: [] }>()
</script>

<template>
  <article class="report">
    <h3>{{ t('judging.revision-2', { number: report.number, revision: report.revision }) }}</h3>
    <p class="small">
      <VerdictWord :verdict="report.verdict" />, {{ moment(report.released_at) }},
      {{ report.released_by }}
    </p>
    <p v-if="report.withdrawn" class="flag small">{{ report.withdrawn }}</p>
    <p v-if="report.reason" class="small quiet">{{ report.reason }}</p>
    <div class="forms">
      <ActButton
        :kind="newest && !report.withdrawn ? 'main' : 'usual'"
        :href="`/api/reports/${report.id}/client.pdf`"
        target="_blank"
        >{{ t('judging.client-report') }}</ActButton
      >
      <ActButton :href="`/api/reports/${report.id}.pdf`" target="_blank">{{
        t('judging.full-record')
      }}</ActButton>
      <ActButton :href="`/api/reports/${report.id}.json`" download>{{
        t('judging.json')
      }}</ActButton>
      <ActButton :href="`/api/reports/${report.id}/specimens.csv`">{{
        t('judging.csv')
      }}</ActButton>
      <ActButton :href="`/api/reports/${report.id}.xlsx`">{{ t('judging.xlsx') }}</ActButton>
      <ActButton :href="`/api/reports/${report.id}/traces.csv`">{{
        t('judging.traces')
      }}</ActButton>
      <ActButton :href="`/api/reports/${report.id}/package.zip`">{{
        t('judging.package')
      }}</ActButton>
      <ActButton v-if="mayWithdraw && !report.withdrawn" @click="$emit('withdraw')">{{
        t('judging.withdraw')
      }}</ActButton>
    </div>
  </article>
</template>

<style scoped>
.report {
  padding: 10px 0;
  border-top: 1px solid var(--hair);
}

.flag {
  padding: 4px 10px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

.forms {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 7px;
  margin-top: 8px;
}

.forms > :first-child {
  grid-column: 1 / -1;
}
</style>
