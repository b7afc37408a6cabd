<script setup lang="ts">
/** A table of the record: ruled lines, figures to the right under a class of that name. */
defineProps<{ dense?: boolean }>()
</script>

<template>
  <v-table class="ruled" :class="{ dense }"><slot /></v-table>
</template>
