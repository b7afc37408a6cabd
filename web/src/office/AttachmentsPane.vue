<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { upload } from '@/api/upload'
import { useSession } from '@/app/session'
import ActButton from '@/ui/ActButton.vue'
import FileButton from '@/ui/FileButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/dates'

/** The files that go with a job, a client, an instrument or a product. */
const props = defineProps<{
  subject: 'job' | 'client' | 'instrument' | 'product'
  of: string | number
}>()
const { me } = useSession()
const queries = useQueryClient()
const { act, refused, busy } = useAct()
const key = computed(() => String(props.of))
const queryKey = computed(() => ['attachments', props.subject, key.value])
const files = useQuery({
  queryKey,
  queryFn: () =>
    ask(
      client.GET('/api/attachments', {
        params: { query: { subject: props.subject, key: key.value } },
      }),
    ),
})
type View = Schemas['AttachmentView']
const removing = ref<View | null>(null)
const show = (views: View[]) => queries.setQueryData(queryKey.value, views)
const mayAttach = computed(() => me.value?.may.includes('receive') ?? false)
const sizeOf = (bytes: number) =>
  bytes < 1_000_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`

const add = (chosen: File[]) =>
  act(async () => {
    const body = { file: chosen[0]!, subject: props.subject, key: key.value }
    show(await upload<View[]>('/api/attachments', body))
  }, ['attachments'])
const remove = (reason: string) =>
  act(async () => {
    const path = { attachment_id: removing.value!.id }
    const request = { params: { path, query: { reason } } }
    show(await ask(client.DELETE('/api/attachments/{attachment_id}', request)))
  }, ['attachments'])
</script>

<template>
  <section :aria-label="t('office.files')">
    <h3>{{ t('office.files') }}</h3>
    <FromRecord v-if="!files.data.value" inline :query="files" />
    <ul v-else-if="files.data.value.length">
      <li v-for="file in files.data.value" :key="file.id">
        <a :href="`/api/attachments/${file.id}/content`" download>{{ file.name }}</a>
        <span class="small quiet"
          >{{ sizeOf(file.size) }} · {{ file.by }}, {{ dayOf(file.at) }}</span
        >
        <ActButton
          v-if="mayAttach"
          kind="plain"
          class="small"
          :aria-label="t('office.remove-file', { name: file.name })"
          @click="removing = file"
          >{{ t('office.remove') }}</ActButton
        >
      </li>
    </ul>
    <p v-else class="small quiet">{{ t('office.no-file-yet') }}</p>
    <FileButton
      v-if="mayAttach"
      kind="link"
      :label="t('office.file-to-attach')"
      accept=".pdf,image/*,.txt,.csv,.xlsx,.ods"
      :disabled="busy"
      @chosen="add"
      >{{ t('office.attach-file') }}</FileButton
    >
    <RefusalNote v-model="refused" />
    <ReasonDialog
      :model-value="removing !== null"
      :title="t('office.remove-file', { name: removing?.name })"
      :text="t('office.it-leaves-the-lists-and-stays-in-the-record')"
      :act="t('office.remove-it')"
      @update:model-value="removing = null"
      @given="remove"
    />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 4px;
  justify-items: start;
}

ul {
  display: grid;
  gap: 2px;
  width: 100%;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
}

a {
  overflow-wrap: anywhere;
}

li button {
  margin-left: auto;
}
</style>
