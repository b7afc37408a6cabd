<script setup lang="ts">
import { onMounted, watch } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { useIntervalFn } from '@vueuse/core'
import { Problem } from '@/api/client'
import { useAppTheme } from '@/app/appTheme'
import AppFrame from '@/app/AppFrame.vue'
import { useSession } from '@/app/session'
import SignInPage from '@/app/SignInPage.vue'

const { me, looked, away, look, lost } = useSession()
const queries = useQueryClient()
useAppTheme()

queries.getQueryCache().subscribe((event) => {
  const error: unknown = event.query.state.error
  if (error instanceof Problem && error.status === 401) lost()
})

watch(me, (now, before) => {
  if (before && !now) queries.clear()
})

onMounted(async () => {
  await look()
  const again = useIntervalFn(() => {
    if (away.value) void look()
    else again.pause()
  }, 2000)
})
</script>

<template>
  <v-app>
    <AppFrame v-if="me" />
    <SignInPage v-else-if="looked" :away="away" />
  </v-app>
</template>
