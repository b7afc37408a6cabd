<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import VerdictWord from '@/ui/VerdictWord.vue'
import { moment } from '@/ui/dates'
import RuledTable from '@/ui/RuledTable.vue'

/** What was changed since the revision that this report corrects, with both verdicts. */
defineProps<{
  corrects: Schemas['EarlierReport']
  changes: Schemas['ChangeLine'][]
  verdict: string
}>()
</script>

<template>
  <section class="changes">
    <h2>{{ t('judging.changed-since-revision', { revision: corrects.revision }) }}</h2>
    <p>
      <i18n-t keypath="judging.revision" scope="global"
        ><template #revision>{{ corrects.revision }}</template
        ><template #before><VerdictWord :verdict="corrects.verdict" /></template
        ><template #now
          ><VerdictWord :verdict="verdict" :open="t('judging.not-judged-yet')" /></template
      ></i18n-t>
    </p>
    <RuledTable v-if="changes.length">
      <thead>
        <tr>
          <th>{{ t('judging.field') }}</th>
          <th>{{ t('judging.before') }}</th>
          <th>{{ t('judging.after') }}</th>
          <th>{{ t('judging.reason') }}</th>
          <th>{{ t('judging.person-time') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(line, place) in changes" :key="place">
          <td>{{ line.field }}</td>
          <td>{{ line.before }}</td>
          <td>{{ line.after }}</td>
          <td>{{ line.why || '–' }}</td>
          <td class="small quiet">{{ line.who }}, {{ moment(line.at) }}</td>
        </tr>
      </tbody>
    </RuledTable>
    <p v-else class="quiet">{{ t('judging.no-changes-yet') }}</p>
  </section>
</template>

<style scoped>
.changes {
  margin: 14px 0 22px;
}

td:nth-child(2),
td:nth-child(3) {
  min-width: 124px;
}
</style>
