<script setup lang="ts">
import { useDeviceKinds } from '@/api/queries'

/** What a simulated device of this kind does from now on; real ones have none. */
const props = defineProps<{ kind: string; label: string }>()
const emit = defineEmits<{ simulate: [fault: string] }>()
const { faultsOf } = useDeviceKinds()
const chosen = (event: Event) => emit('simulate', (event.target as HTMLSelectElement).value)
</script>

<template>
  <select :aria-label="label" @change="chosen">
    <option v-for="fault in faultsOf(props.kind)" :key="fault.code" :value="fault.code">
      {{ fault.title }}
    </option>
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
