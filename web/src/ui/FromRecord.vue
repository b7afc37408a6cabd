<script setup lang="ts">
import type { Ref } from 'vue'
import { sentence } from '@/api/client'
import StateNote from '@/ui/StateNote.vue'

/** Stands where a page will stand once it is there: loading and failing are said alike everywhere. */
defineProps<{
  query: { isError: Ref<boolean>; error: Ref<unknown>; refetch: () => unknown }
  inline?: boolean
}>()
</script>

<template>
  <StateNote
    v-if="query.isError.value"
    :error="sentence(query.error.value)"
    :inline="inline"
    @again="query.refetch()"
  />
  <StateNote v-else loading :inline="inline" />
</template>
