<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'

/** A note above the clocks of every screen: at the right what you did, at the left what others did. */
defineProps<{ text: string; side: 'left' | 'right' }>()
defineEmits<{ close: [] }>()
</script>

<template>
  <div class="floating" :class="side" role="status">
    <span>{{ text }}</span>
    <slot />
    <ActButton kind="plain" :aria-label="t('app.close-message')" @click="$emit('close')"
      >×</ActButton
    >
  </div>
</template>

<style scoped>
.floating {
  position: fixed;
  z-index: 20;
  bottom: 92px;
  display: flex;
  gap: 18px;
  align-items: center;
  max-width: min(560px, 90vw);
  padding: 10px 16px;
  background: var(--page);
  border: 1px solid var(--ink);
  border-left: 6px solid var(--ink);
}

.right {
  right: 24px;
  border-left-color: var(--blue);
}

.left {
  left: 176px;
}

@media (max-width: 900px) {
  .left {
    left: 14px;
  }
}
</style>
