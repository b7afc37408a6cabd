<script setup lang="ts">
import { t } from '@/ui/words'
import type { SheetView } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'

/** What was marked, so that nothing is cut there. */
defineProps<{ areas: SheetView['avoided']; open: boolean }>()
defineEmits<{ unmark: [place: number] }>()
</script>

<template>
  <ul class="areas">
    <li v-for="(area, place) in areas" :key="place">
      <span>{{ area.reason }}</span>
      <ActButton v-if="open" kind="plain" class="quiet small" @click="$emit('unmark', place)">{{
        t('cutting.remove')
      }}</ActButton>
    </li>
  </ul>
</template>

<style scoped>
.areas {
  margin: 0;
  padding: 0;
  list-style: none;
}

.areas li {
  display: flex;
  justify-content: space-between;
  padding: 3px 0 3px 12px;
  border-left: 5px solid var(--brick);
}
</style>
