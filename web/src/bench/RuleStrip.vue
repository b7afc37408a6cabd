<script setup lang="ts">
import type { JudgedRow } from '@/api/client'
import LimitRule from '@/ui/LimitRule.vue'

/** The limit of the specimen in hand, as the rule that the mean is read on. */
defineProps<{ row: JudgedRow | undefined }>()
</script>

<template>
  <div v-if="row?.rule" class="rule">
    <p>
      <strong>{{ row.direction }}</strong><br /><span class="mono small">{{ row.limit_text }}</span>
    </p>
    <LimitRule :rule="row.rule" size="page" />
  </div>
</template>

<style scoped>
.rule {
  display: grid;
  grid-template-columns: 132px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  margin-top: auto;
}
</style>
