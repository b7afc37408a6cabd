<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import RuledTable from '@/ui/RuledTable.vue'
import { dayOf } from '@/ui/dates'

/** The jobs of an order, or those of a client without one. */
defineProps<{ jobs: Schemas['JobOfClient'][] }>()
const STATES: Record<Schemas['JobOfClient']['state'], string> = {
  open: t('office.in-the-lab'),
  released: t('office.released'),
  cancelled: t('office.cancelled'),
}
</script>

<template>
  <RuledTable dense>
    <tbody>
      <tr v-for="job in jobs" :key="job.id">
        <td class="mono">
          <router-link :to="`/jobs/${job.id}`">{{ job.number }}</router-link>
        </td>
        <td>{{ job.product }}</td>
        <td>{{ t('office.lot', { lot: job.lot }) }}</td>
        <td class="quiet">{{ job.reference }}</td>
        <td class="mono">{{ dayOf(job.due_at) }}</td>
        <td>{{ STATES[job.state] }}</td>
      </tr>
    </tbody>
  </RuledTable>
</template>
