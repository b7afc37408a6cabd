<script setup lang="ts">
/** Days of the week that are worked, from Monday on. */
const days = defineModel<number[]>({ required: true })
defineProps<{ disabled?: boolean }>()
const NAMES = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
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
