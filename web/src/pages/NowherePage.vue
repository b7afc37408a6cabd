<script setup lang="ts">
import StateNote from '@/components/StateNote.vue'
</script>

<template>
  <StateNote
    title="There is no such page"
    says="The address may be mistyped, or the thing is gone."
  >
    <router-link class="act" to="/jobs">To the jobs</router-link>
  </StateNote>
</template>
