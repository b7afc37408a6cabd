<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import { shortMoment } from '@/ui/dates'
import type { Draft } from '@/ui/drafts'

/** What was typed here before and not saved is back; it can be thrown away. */
defineProps<{ draft: Draft }>()
</script>

<template>
  <p v-if="draft.restoredAt.value" class="small restored" role="status">
    {{ t('ui.restored-entries', { at: shortMoment(draft.restoredAt.value) }) }}
    <ActButton type="button" kind="link" @click="draft.discard">{{
      t('ui.discard-entries')
    }}</ActButton>
  </p>
</template>

<style scoped>
.restored {
  padding: 6px 12px;
  border-left: 5px solid var(--tape);
  background: var(--sunk);
}
</style>
