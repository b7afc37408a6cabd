<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery, keepPreviousData } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask, client } from '@/api/client'
import { useSession } from '@/app/session'
import ClientForm from '@/office/ClientForm.vue'
import ClientPane from '@/office/ClientPane.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import StateNote from '@/ui/StateNote.vue'

/** The clients of the laboratory: who they are, what they ordered, and who gets their reports. */
const route = useRoute()
const router = useRouter()
const { me } = useSession()
const search = ref('')
const sought = refDebounced(search, 250)
const clients = useQuery({
  queryKey: ['clients', sought],
  queryFn: () => ask(client.GET('/api/clients', { params: { query: { search: sought.value } } })),
  placeholderData: keepPreviousData,
})
const isNew = computed(() => route.query.new !== undefined)
const picked = computed(() =>
  typeof route.query.name === 'string' ? route.query.name : (clients.data.value?.[0]?.name ?? null),
)
const show = (name: string) => router.push({ query: { name } })
</script>

<template>
  <FromRecord v-if="!clients.data.value" :query="clients" />
  <div v-else class="beside">
    <aside>
      <h1>{{ t('office.clients') }}</h1>
      <v-text-field
        v-model="search"
        density="compact"
        clearable
        :label="t('office.search')"
        @click:clear="search = ''"
      />
      <ul class="picks">
        <li v-for="line in clients.data.value" :key="line.name">
          <ActButton
            kind="plain"
            :class="{ open: !isNew && picked === line.name }"
            :aria-pressed="!isNew && picked === line.name"
            @click="show(line.name)"
          >
            <span class="name">{{ line.name }}</span>
            <span v-if="line.open_jobs" class="small quiet">{{
              t('office.open-jobs', { count: line.open_jobs })
            }}</span>
          </ActButton>
        </li>
      </ul>
      <ActButton v-if="me?.may.includes('receive')" to="/clients?new">{{
        t('office.add-client')
      }}</ActButton>
    </aside>
    <ClientForm v-if="isNew" :from="null" @saved="show" @leave="router.push('/clients')" />
    <ClientPane v-else-if="picked" :key="picked" :name="picked" />
    <StateNote
      v-else
      :title="search ? t('office.no-client-found') : t('office.no-client-yet')"
      :text="t('office.a-client-stands-here')"
    />
  </div>
</template>

<style scoped src="./beside.css"></style>
