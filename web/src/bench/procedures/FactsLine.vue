<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** What was written down of a specimen, in a line. */
defineProps<{ facts: Schemas['FactView'][] }>()
</script>

<template>
  <dl v-if="facts.length">
    <div v-for="fact in facts" :key="fact.name">
      <dt>{{ fact.title }}</dt>
      <dd class="mono">{{ fact.value.replace(/-(?=[a-z])/g, ' ') }} {{ fact.unit }}</dd>
    </div>
    <slot />
  </dl>
</template>

<style scoped>
dl {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 34px;
  margin: 0;
}

dt {
  color: var(--ink-2);
  font-size: 14px;
}

dd {
  margin: 0;
  font-weight: 600;
}
</style>
