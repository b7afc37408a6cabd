<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { serverNow } from '@/app/clock'
import { dayFrom, dayOf } from '@/ui/words'

/** A day, typed as the house writes it; the model is "2026-11-20", "" while empty, null while odd. */
const day = defineModel<string | null>({ required: true })
defineProps<{ label: string }>()
const text = ref('')
const read = (typed: string) => (typed.trim() ? dayFrom(typed) : '')
watch(
  day,
  (now) => {
    if (now !== read(text.value)) text.value = now ? dayOf(`${now}T12:00`) : ''
  },
  { immediate: true },
)
watch(text, (typed) => (day.value = read(typed)))
const example = dayOf(new Date(serverNow()).toISOString())
const isOdd = computed(() => read(text.value) === null)
</script>

<template>
  <v-text-field
    v-model="text"
    :label="label"
    :placeholder="example"
    :error-messages="isOdd ? `enter a day, such as ${example}` : undefined"
  />
</template>
