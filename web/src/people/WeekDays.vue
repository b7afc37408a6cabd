<script setup lang="ts">
import { t } from '@/ui/words'
/** Days of the week that are worked, from Monday on. */
const days = defineModel<number[]>({ required: true })
defineProps<{ disabled?: boolean }>()
const NAMES = [
  t('people.mon'),
  t('people.tue'),
  t('people.wed'),
  t('people.thu'),
  t('people.fri'),
  t('people.sat'),
  t('people.sun'),
]
</script>

<template>
  <v-checkbox
    v-for="(name, place) in NAMES"
    :key="name"
    v-model="days"
    :value="place"
    :label="name"
    :disabled="disabled"
  />
</template>
