<script setup lang="ts">
import ActButton from '@/ui/ActButton.vue'

/** The head of a column that a list can be ordered by. */
defineProps<{ title: string; sorted: 'none' | 'ascending' | 'descending' }>()
defineEmits<{ sort: [] }>()
</script>

<template>
  <ActButton type="button" kind="plain" class="sort" @click="$emit('sort')">
    {{ title }}
    <svg viewBox="0 0 10 12" width="10" height="12" :class="sorted" aria-hidden="true">
      <path d="M5 1v10M1.5 7.5 5 11l3.5-3.5" />
    </svg>
  </ActButton>
</template>

<style scoped>
.sort {
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
  vertical-align: bottom;
  line-height: 1.3;
}

svg {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.6;
}

.none {
  opacity: 0;
}

.sort:hover .none {
  opacity: 0.5;
}

.descending {
  transform: rotate(180deg);
}
</style>
