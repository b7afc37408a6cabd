<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
/** A refusal next to what was refused: the server's sentence, until it is waved away. */
const text = defineModel<string>({ required: true })
</script>

<template>
  <div v-if="text" class="refusal" role="alert">
    <p>{{ text }}</p>
    <ActButton kind="plain" :aria-label="t('ui.close-message')" @click="text = ''">×</ActButton>
  </div>
</template>

<style scoped>
.refusal {
  display: flex;
  gap: 14px;
  align-items: start;
  justify-content: space-between;
  margin: 10px 0;
  padding: 11px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

button {
  flex: none;
  width: 28px;
  height: 28px;
  font-size: 22px;
  line-height: 1;
}
</style>
