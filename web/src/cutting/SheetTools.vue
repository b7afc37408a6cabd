<script setup lang="ts">
import { t } from '@/ui/words'
import type { AreaTool } from '@/cutting/areas'
import ActButton from '@/ui/ActButton.vue'

/** What can be done with the sheet as a whole. */
defineProps<{ locked: number; placed: boolean; undoable: boolean; busy: boolean }>()
defineEmits<{ place: []; undo: [] }>()
const tool = defineModel<AreaTool | null>('tool', { required: true })
</script>

<template>
  <div class="tools">
    <ActButton
      :aria-pressed="tool !== null"
      :class="{ on: tool }"
      @click="tool = tool ? null : 'box'"
    >
      {{ t('cutting.mark-an-area') }} <kbd>M</kbd>
    </ActButton>
    <ActButton
      v-if="placed"
      :disabled="busy"
      :title="locked ? t('cutting.locked-stay-where-they-are', { locked }) : ''"
      @click="$emit('place')"
    >
      {{ t('cutting.place-again') }} <kbd>P</kbd>
    </ActButton>
    <ActButton :disabled="busy || !undoable" @click="$emit('undo')">
      {{ t('cutting.undo') }} <kbd>Z</kbd>
    </ActButton>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 8px;
  white-space: nowrap;
}

.on.act {
  border-color: var(--brick);
  color: var(--brick);
}

@media (max-width: 1100px) {
  .tools kbd {
    display: none;
  }
}
</style>
