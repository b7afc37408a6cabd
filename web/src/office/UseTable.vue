<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import RuledTable from '@/ui/RuledTable.vue'

/** How long stations or instruments ran in a month. */
defineProps<{ title: string; column: string; lines: Schemas['UseLine'][] }>()
</script>

<template>
  <section v-if="lines.length">
    <h2>{{ title }}</h2>
    <RuledTable dense>
      <thead>
        <tr>
          <th>{{ column }}</th>
          <th class="right">{{ t('office.runs') }}</th>
          <th class="right">{{ t('office.hours-of-runs') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in lines" :key="`${line.name} ${line.serial}`">
          <td>
            {{ line.name }} <span class="mono quiet">{{ line.serial }}</span>
          </td>
          <td class="mono right">{{ line.runs }}</td>
          <td class="mono right">{{ line.hours.toFixed(1) }}</td>
        </tr>
      </tbody>
    </RuledTable>
  </section>
</template>
