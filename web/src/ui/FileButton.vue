<script setup lang="ts">
import { ref } from 'vue'
import ActButton from '@/ui/ActButton.vue'

/** A button that opens the chooser of files, and hands on what was chosen. */
defineProps<{
  label: string
  accept: string
  kind?: 'usual' | 'link'
  disabled?: boolean
  multiple?: boolean
  /** The camera of a telephone, where there is one. */
  capture?: 'environment'
}>()
const emit = defineEmits<{ chosen: [files: File[]] }>()
const field = ref<HTMLInputElement | null>(null)
function choose() {
  const files = [...(field.value?.files ?? [])]
  if (field.value) field.value.value = ''
  if (files.length) emit('chosen', files)
}
defineExpose({ open: () => field.value?.click() })
</script>

<template>
  <ActButton type="button" :kind="kind ?? 'usual'" :disabled="disabled" @click="field?.click()">
    <slot />
  </ActButton>
  <input
    ref="field"
    type="file"
    hidden
    :accept="accept"
    :multiple="multiple"
    :capture="capture"
    :disabled="disabled"
    :aria-label="label"
    @change="choose"
  />
</template>
