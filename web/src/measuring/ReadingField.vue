<script setup lang="ts">
import { t } from '@/ui/words'
import { onMounted, ref } from 'vue'
import ActButton from '@/ui/ActButton.vue'
import { listKeys } from '@/ui/keys'

/** Where a reading is typed; empty, the space bar reads the gauge and the back key takes back. */
const props = defineProps<{ label: string; act: string; busy: boolean }>()
const emit = defineEmits<{ enter: []; gauge: []; back: [] }>()
const typed = defineModel<string>({ required: true })
const field = ref<{ focus(): void } | null>(null)
const focus = () => field.value?.focus()
onMounted(focus)
defineExpose({ focus })
listKeys(() => [
  { key: 'Enter', text: props.act },
  { key: t('measuring.space'), text: t('measuring.read-the-gauge') },
  { key: '⌫', text: t('measuring.undo-the-last-reading') },
])

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
    <v-text-field
      ref="field"
      v-model="typed"
      class="mono"
      inputmode="decimal"
      autocomplete="off"
      :label="label"
      suffix="mm"
      :disabled="busy"
      @keydown="typing"
    />
    <ActButton kind="main"
      >{{ act }} <kbd>{{ t('measuring.enter') }}</kbd></ActButton
    >
  </form>
</template>

<style scoped>
.entry {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}

.entry .v-text-field {
  flex: none;
  width: 250px;
}

.entry :deep(.v-field) {
  font: 400 38px/1.2 var(--mono);
}

.entry :deep(input) {
  text-align: right;
}
</style>
