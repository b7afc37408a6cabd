<script setup lang="ts">
import ActButton from '@/ui/ActButton.vue'
import StateNote from '@/ui/StateNote.vue'
</script>

<template>
  <StateNote
    title="There is no such page"
    says="The address may be mistyped, or the thing is gone."
  >
    <ActButton to="/jobs">To the jobs</ActButton>
  </StateNote>
</template>
