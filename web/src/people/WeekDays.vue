<script setup lang="ts">
/** Days of the week that are worked, from Monday on. */
const days = defineModel<number[]>({ required: true })
defineProps<{ disabled?: boolean }>()
const NAMES = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
</script>

<template>
  <label v-for="(name, place) in NAMES" :key="name">
    <input v-model="days" type="checkbox" :value="place" :disabled="disabled" /> {{ name }}
  </label>
</template>
