<script setup lang="ts">
import { t } from '@/ui/words'
import type { TestView } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'

/** The tests of a job, and how much of each is still to do. */
defineProps<{ tests: TestView[]; open: number | null }>()
defineEmits<{ pick: [id: number] }>()
</script>

<template>
  <div class="tests" role="tablist">
    <ActButton
      v-for="shownTest in tests"
      :key="shownTest.id"
      role="tab"
      :class="{ on: shownTest.id === open }"
      :aria-selected="shownTest.id === open"
      @click="$emit('pick', shownTest.id)"
    >
      {{ shownTest.title }}
      <span class="mono">{{
        shownTest.to_go ? t('bench.to-go', { to_go: shownTest.to_go }) : t('bench.done')
      }}</span>
    </ActButton>
  </div>
</template>

<style scoped>
.tests {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 12px;
}

.tests .on {
  border-color: var(--blue);
  box-shadow: inset 0 -4px 0 var(--blue);
}
</style>
