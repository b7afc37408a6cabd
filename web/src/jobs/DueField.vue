<script setup lang="ts">
import { computed } from 'vue'
import { forPicker, momentFrom, written } from '@/ui/words'

/** When it is due: typed in words, or picked. */
const due = defineModel<string>({ required: true })
const at = computed(() => momentFrom(due.value))
function pick(event: Event) {
  const picked = (event.target as HTMLInputElement).value
  if (picked) due.value = written(new Date(picked))
}
</script>

<template>
  <div class="due">
    <v-text-field
      v-model="due"
      label="Due"
      :error-messages="at ? undefined : 'enter a day and a time, such as 20 Nov 2026, 16:00'"
    />
    <input
      type="datetime-local"
      aria-label="Pick day and time"
      :value="at ? forPicker(at) : ''"
      @change="pick"
    />
  </div>
</template>

<style scoped>
.due {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 10px;
  align-items: center;
}

input {
  width: 44px;
  min-height: 44px;
  border: 0;
  background: transparent;
  color: transparent;
  font: inherit;
  color-scheme: light dark;
}
</style>
