<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import RuledTable from '@/ui/RuledTable.vue'
import { capital } from '@/ui/phrases'

/** The tests of a specification, each with its parameters and limits. */
defineProps<{ tests: Schemas['SpecifiedTest'][] }>()
</script>

<template>
  <section v-for="(test, place) in tests" :key="place">
    <h3>
      <router-link :to="`/methods/${test.method}`">{{ test.title }}</router-link>
      <span class="mono small quiet">{{ test.method }}</span>
    </h3>
    <p v-if="test.parameters.length" class="small quiet">
      {{ test.parameters.map((line) => `${line.name} ${line.text}`).join(' · ') }}
    </p>
    <RuledTable v-if="test.limits.length" dense>
      <tbody>
        <tr v-for="line in test.limits" :key="line.name">
          <td>{{ capital(line.name) }}</td>
          <td class="mono">{{ line.text }}</td>
        </tr>
      </tbody>
    </RuledTable>
    <p v-else class="small quiet">{{ t('products.no-limit-reported-only') }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 4px;
}

h3 {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
}

td:first-child {
  width: 55%;
}
</style>
