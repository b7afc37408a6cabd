<script setup lang="ts">
import { onMounted, ref } from 'vue'
import ActButton from '@/ui/ActButton.vue'

/** Where a reading is typed; empty, the space bar reads the gauge and the back key takes back. */
defineProps<{ label: string; act: string; busy: boolean }>()
const emit = defineEmits<{ enter: []; gauge: []; back: [] }>()
const typed = defineModel<string>({ required: true })
const field = ref<HTMLInputElement | null>(null)
const focus = () => field.value?.focus()
onMounted(focus)
defineExpose({ focus })

function typing(event: KeyboardEvent) {
  if (event.key === ' ' && !typed.value) {
    event.preventDefault()
    emit('gauge')
  }
  if (event.key === 'Backspace' && !typed.value) {
    event.preventDefault()
    emit('back')
  }
}
</script>

<template>
  <form class="entry" @submit.prevent="$emit('enter')">
    <input
      ref="field"
      v-model="typed"
      class="mono"
      inputmode="decimal"
      autocomplete="off"
      :aria-label="label"
      :disabled="busy"
      @keydown="typing"
    />
    <span class="mono unit">mm</span>
    <ActButton kind="main">{{ act }} <kbd>Enter</kbd></ActButton>
  </form>
</template>

<style scoped>
.entry {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}

.entry input {
  width: 210px;
  min-height: 68px;
  padding: 0 14px;
  border: 2px solid var(--blue);
  border-radius: 8px;
  background: var(--page);
  color: var(--ink);
  font-size: 38px;
  text-align: right;
}

.unit {
  font-size: 22px;
}
</style>
