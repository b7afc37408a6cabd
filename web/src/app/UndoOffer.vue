<script setup lang="ts">
import { t } from '@/ui/words'
import { useQueryClient } from '@tanstack/vue-query'
import ActButton from '@/ui/ActButton.vue'
import { useUndo } from '@/ui/undo'

/** What was done last, with its undo for a minute, above the clocks of every screen. */
const { offer, outcome, busy, undo, dismiss } = useUndo()
const queries = useQueryClient()

async function takeBack() {
  await undo()
  await queries.invalidateQueries()
}
</script>

<template>
  <div v-if="offer || outcome" class="offer" role="status">
    <span>{{ offer ? offer.text : outcome }}</span>
    <ActButton v-if="offer" kind="link" :disabled="busy" @click="takeBack">{{
      t('app.undo')
    }}</ActButton>
    <ActButton kind="plain" :aria-label="t('app.close-message')" @click="dismiss">×</ActButton>
  </div>
</template>

<style scoped>
.offer {
  position: fixed;
  z-index: 20;
  right: 24px;
  bottom: 92px;
  display: flex;
  gap: 18px;
  align-items: center;
  max-width: min(560px, 90vw);
  padding: 10px 16px;
  background: var(--page);
  border: 1px solid var(--ink);
  border-left: 6px solid var(--blue);
}
</style>
