<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import DateField from '@/ui/DateField.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraftOf } from '@/ui/drafts'
import { vFocus } from '@/ui/focus'
import RefusalNote from '@/ui/RefusalNote.vue'

/** A nonconformity is opened, or its cause and action are written down. */
const props = defineProps<{
  from: Schemas['NonconformityPage'] | null
  jobId?: number | null
  serial?: string | null
}>()
const emit = defineEmits<{ saved: [id: number]; leave: [] }>()
const queries = useQueryClient()
const { act, refused, busy } = useAct()
const people = useQuery({ queryKey: ['people'], queryFn: () => ask(client.GET('/api/people')) })
const owners = computed(() =>
  (people.data.value ?? [])
    .filter((each) => each.active)
    .map((each) => ({ value: each.id, title: each.name })),
)
const typed = reactive({
  kind: props.from?.kind ?? 'nonconformity',
  title: props.from?.title ?? '',
  description: props.from?.description ?? '',
  cause: props.from?.cause ?? '',
  action: props.from?.action ?? '',
  owner_id: props.from?.owner_id ?? null,
  due_at: props.from?.due_at ?? '',
  revision: props.from?.revision ?? 0,
})
const draft = useDraftOf(
  () => `nonconformity/${props.from?.id ?? `${props.jobId ?? ''}${props.serial ?? ''}`}`,
  typed,
)
draft.begin()
const tried = ref(false)
const KINDS = [
  { value: 'nonconformity', title: t('office.nonconformity') },
  { value: 'complaint', title: t('office.complaint') },
]

async function save() {
  tried.value = true
  if (!typed.title.trim() || typed.due_at === null) return
  const { kind, cause, action, revision, ...rest } = typed
  const common = { ...rest, due_at: typed.due_at || null }
  await act(async () => {
    const before = props.from
    const page = before
      ? await ask(
          client.PUT('/api/nonconformities/{nonconformity_id}', {
            params: { path: { nonconformity_id: before.id } },
            body: { ...common, cause, action, revision },
          }),
        )
      : await ask(
          client.POST('/api/nonconformities', {
            body: { ...common, kind, job_id: props.jobId ?? null, serial: props.serial ?? null },
          }),
        )
    queries.setQueryData(['nonconformity', page.id], page)
    draft.saved()
    emit('saved', page.id)
  })
}
</script>

<template>
  <form @submit.prevent="save">
    <header>
      <h2>{{ from ? from.number : t('office.open-nonconformity') }}</h2>
      <div class="acts">
        <ActButton type="button" @click="(draft.discard(), emit('leave'))">{{
          t('office.cancel')
        }}</ActButton>
        <ActButton kind="main" :disabled="busy">{{
          from ? t('office.save') : t('office.open-it')
        }}</ActButton>
      </div>
    </header>
    <DraftNote :draft="draft" />
    <RefusalNote v-model="refused" />
    <v-select v-if="!from" v-model="typed.kind" :items="KINDS" :label="t('office.kind')" />
    <v-text-field
      v-model="typed.title"
      v-focus
      :label="t('office.what-went-wrong')"
      maxlength="200"
      :error-messages="tried && !typed.title.trim() ? t('products.required') : undefined"
    />
    <v-textarea
      v-model="typed.description"
      rows="2"
      auto-grow
      :label="t('office.description')"
      maxlength="2000"
    />
    <template v-if="from">
      <v-textarea
        v-model="typed.cause"
        rows="2"
        auto-grow
        :label="t('office.cause')"
        maxlength="2000"
      />
      <v-textarea
        v-model="typed.action"
        rows="2"
        auto-grow
        :label="t('office.action')"
        maxlength="2000"
      />
    </template>
    <div class="pair">
      <v-select
        v-model="typed.owner_id"
        :items="owners"
        clearable
        :label="t('office.responsible')"
      />
      <DateField v-model="typed.due_at" with-time :label="t('office.due')" />
    </div>
  </form>
</template>

<style scoped src="./pane.css"></style>
<style scoped>
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 14px;
}
</style>
