<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { ask, client } from '@/api/client'
import { useSession } from '@/app/session'

/** The nonconformities of a job or an instrument, and the way to open one. */
const props = defineProps<{ jobId?: number; serial?: string }>()
const { me } = useSession()
const all = useQuery({
  queryKey: ['nonconformities', computed(() => props.jobId), computed(() => props.serial)],
  queryFn: () =>
    ask(
      client.GET('/api/nonconformities', {
        params: { query: { state: 'all', job_id: props.jobId, serial: props.serial } },
      }),
    ),
})
const about = computed(() => (props.jobId ? `job=${props.jobId}` : `serial=${props.serial}`))
</script>

<template>
  <p class="small">
    <template v-for="line in all.data.value ?? []" :key="line.id">
      <router-link :to="`/nonconformities?id=${line.id}`"
        >{{ line.number }}, {{ line.title }}</router-link
      >
      <span class="quiet">{{ line.closed_at ? t('office.closed') : t('office.open') }}</span>
    </template>
    <router-link v-if="me?.may.includes('receive')" :to="`/nonconformities?new&${about}`">{{
      t('office.open-nonconformity')
    }}</router-link>
  </p>
</template>

<style scoped>
p {
  display: grid;
  grid-template-columns: minmax(0, 1fr) max-content;
  gap: 4px 14px;
}

p > a:last-child {
  grid-column: 1 / -1;
}
</style>
