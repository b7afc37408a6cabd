<script setup lang="ts">
import { t } from '@/ui/words'
import { useNews } from '@/app/elsewhere'
import ActButton from '@/ui/ActButton.vue'

/** What another person did just now to the job that is open here. */
const { news, dismiss } = useNews()
</script>

<template>
  <div v-if="news" class="news" role="status">
    <span>{{ news }}</span>
    <ActButton kind="plain" :aria-label="t('app.close-message')" @click="dismiss">×</ActButton>
  </div>
</template>

<style scoped>
.news {
  position: fixed;
  z-index: 20;
  top: 92px;
  right: 24px;
  display: flex;
  gap: 18px;
  align-items: center;
  max-width: min(520px, 90vw);
  padding: 10px 16px;
  background: var(--page);
  border: 1px solid var(--ink);
  border-left: 6px solid var(--ink);
}
</style>
