<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery, keepPreviousData } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask, client } from '@/api/client'
import { useSession } from '@/app/session'
import NonconformityForm from '@/office/NonconformityForm.vue'
import NonconformityPane from '@/office/NonconformityPane.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import StateNote from '@/ui/StateNote.vue'
import { dayOf } from '@/ui/dates'

/** What went wrong and what clients complained about: cause, action, and who closed it. */
const route = useRoute()
const router = useRouter()
const { me } = useSession()
const state = ref<'open' | 'closed'>('open')
const STATES = [
  { value: 'open', title: t('office.open-ones') },
  { value: 'closed', title: t('office.closed-ones') },
]
const all = useQuery({
  queryKey: ['nonconformities', state],
  queryFn: () =>
    ask(client.GET('/api/nonconformities', { params: { query: { state: state.value } } })),
  placeholderData: keepPreviousData,
})
const isNew = computed(() => route.query.new !== undefined)
const picked = computed(() => Number(route.query.id) || (all.data.value?.[0]?.id ?? null))
const show = (id: number) => router.push({ query: { id: String(id) } })
</script>

<template>
  <FromRecord v-if="!all.data.value" :query="all" />
  <div v-else class="beside">
    <aside>
      <h1>{{ t('office.nonconformities') }}</h1>
      <v-select v-model="state" density="compact" :items="STATES" :label="t('office.show')" />
      <ul class="picks">
        <li v-for="line in all.data.value" :key="line.id">
          <ActButton
            kind="plain"
            :class="{ open: !isNew && picked === line.id }"
            :aria-pressed="!isNew && picked === line.id"
            @click="show(line.id)"
          >
            <span class="name">{{ line.title }}</span>
            <span v-if="line.overdue" class="small late">{{ t('office.overdue') }}</span>
            <span class="small quiet below"
              ><span class="mono">{{ line.number }}</span>
              <template v-if="line.due_at">
                · {{ t('office.due-on', { day: dayOf(line.due_at) }) }}</template
              >
              <template v-if="line.owner"> · {{ line.owner }}</template></span
            >
          </ActButton>
        </li>
      </ul>
      <ActButton v-if="me?.may.includes('receive')" to="/nonconformities?new">{{
        t('office.open-nonconformity')
      }}</ActButton>
    </aside>
    <NonconformityForm
      v-if="isNew"
      :from="null"
      :job-id="Number(route.query.job) || null"
      :serial="typeof route.query.serial === 'string' ? route.query.serial : null"
      @saved="show"
      @leave="router.push('/nonconformities')"
    />
    <NonconformityPane v-else-if="picked" :id="picked" :key="picked" />
    <StateNote
      v-else
      :title="state === 'open' ? t('office.nothing-is-open') : t('office.nothing-was-closed')"
      :text="t('office.a-failed-check-opens-one-by-itself')"
    />
  </div>
</template>

<style scoped src="./beside.css"></style>
