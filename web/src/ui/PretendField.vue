<script setup lang="ts">
/** How a simulated device behaves from now on; real ones have none. */
defineProps<{ faults: [string, string][]; label: string }>()
const emit = defineEmits<{ pretend: [fault: string] }>()
const chosen = (event: Event) => emit('pretend', (event.target as HTMLSelectElement).value)
</script>

<template>
  <select :aria-label="label" @change="chosen">
    <option v-for="[fault, words] in faults" :key="fault" :value="fault">{{ words }}</option>
  </select>
</template>

<style scoped>
select {
  min-height: 30px;
  border: 0;
  border-bottom: 1.5px dotted var(--ink-3);
  background: transparent;
  color: var(--blue);
  font: inherit;
  appearance: auto;
}

option {
  background: var(--page);
  color: var(--ink);
}
</style>
