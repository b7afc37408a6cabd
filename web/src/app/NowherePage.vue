<script setup lang="ts">
import ActButton from '@/ui/ActButton.vue'
import StateNote from '@/ui/StateNote.vue'
</script>

<template>
  <StateNote title="Page not found" text="The address may be wrong, or the record was removed.">
    <ActButton to="/jobs">Go to jobs</ActButton>
  </StateNote>
</template>
