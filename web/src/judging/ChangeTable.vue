<script setup lang="ts">
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
    <h2>Changed since revision {{ corrects.revision }}</h2>
    <p>
      Revision {{ corrects.revision }}: <VerdictWord :verdict="corrects.verdict" />. Now:
      <VerdictWord :verdict="verdict" open="not judged yet" />.
    </p>
    <RuledTable v-if="changes.length">
      <thead>
        <tr>
          <th>Field</th>
          <th>Before</th>
          <th>After</th>
          <th>Reason</th>
          <th>Person, time</th>
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
    <p v-else class="quiet">No changes yet.</p>
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
