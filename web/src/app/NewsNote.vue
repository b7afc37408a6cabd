<script setup lang="ts">
import FloatingNote from '@/app/FloatingNote.vue'
import { useNews } from '@/app/elsewhere'

/** What another person did just now to the job that is open here. */
const { news, dismiss } = useNews()
</script>

<template>
  <FloatingNote v-if="news" :text="news" side="left" @close="dismiss" />
</template>
