<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { upload } from '@/api/upload'
import FileButton from '@/ui/FileButton.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import ActButton from '@/ui/ActButton.vue'

/** Photographs of the specimen in hand: from a file or the camera, described, in the report or not. */
const props = defineProps<{ specimenId: number; label: string; released: boolean }>()
const { act, refused, refusedFor, busy } = useAct()
const shows = ref('')
const subject = ref('')
/** Whether somebody looks at the photographs: what they can show is asked for only then. */
const isOpen = ref(false)
const subjects = useQuery({
  enabled: isOpen,
  queryKey: ['photo-subjects', computed(() => props.specimenId)],
  queryFn: () =>
    ask(
      client.GET('/api/specimens/{specimen_id}/photograph-subjects', {
        params: { path: { specimen_id: props.specimenId } },
      }),
    ),
})
const choices = computed(() => [
  { value: '', title: t('bench.all-of', { label: props.label }) },
  ...(subjects.data.value ?? []).map((value) => ({ value, title: value })),
])
const photos = useQuery({
  queryKey: ['photos', computed(() => props.specimenId)],
  queryFn: () =>
    ask(
      client.GET('/api/specimens/{specimen_id}/photographs', {
        params: { path: { specimen_id: props.specimenId } },
      }),
    ),
})
async function add(files: File[]) {
  const path = `/api/specimens/${props.specimenId}/photographs`
  await act(async () => {
    await upload(path, { file: files[0]!, shows: shows.value, subject: subject.value })
    shows.value = ''
  })
}
const change = (photo: Schemas['PhotoView'], reason = '') =>
  withReason(photo, change, () =>
    ask(
      client.PUT('/api/photographs/{photo_id}', {
        params: { path: { photo_id: photo.id } },
        body: { shows: photo.shows, subject: photo.subject, in_report: !photo.in_report, reason },
      }),
    ),
  )
const remove = (photo: Schemas['PhotoView'], reason = '') =>
  withReason(photo, remove, () =>
    ask(
      client.DELETE('/api/photographs/{photo_id}', {
        params: { path: { photo_id: photo.id }, query: { reason } },
      }),
    ),
  )

/** Less to be seen of a specimen that was tested needs a reason: asked for once it is refused. */
type Again = (photo: Schemas['PhotoView'], reason: string) => Promise<unknown>
const waits = ref<((reason: string) => void) | null>(null)
async function withReason(photo: Schemas['PhotoView'], again: Again, send: () => Promise<unknown>) {
  await act(send)
  if (refusedFor.value === 'needs-reason') waits.value = (reason) => void again(photo, reason)
}
</script>

<template>
  <details
    class="photos"
    :open="(photos.data.value?.length ?? 0) > 0"
    @toggle="isOpen = ($event.target as HTMLDetailsElement).open"
  >
    <summary class="small">
      {{ t('bench.photographs-of', { label })
      }}<template v-if="photos.data.value?.length">: {{ photos.data.value.length }}</template>
    </summary>
    <figure v-for="photo in photos.data.value ?? []" :key="photo.id">
      <a :href="`/api/photographs/${photo.sha256}.jpg`" target="_blank">
        <img :src="`/api/photographs/${photo.sha256}.jpg?small=true`" :alt="photo.shows || label" />
      </a>
      <figcaption class="small">
        <b v-if="photo.subject">{{ photo.subject }}</b>
        {{ photo.shows }}
        <template v-if="!released">
          <ActButton kind="link" :disabled="busy" @click="change(photo)">
            {{ photo.in_report ? t('bench.in-the-report') : t('bench.not-in-the-report') }}
          </ActButton>
          <ActButton kind="link" :disabled="busy" @click="remove(photo)">
            {{ t('bench.remove-photograph') }}
          </ActButton>
        </template>
      </figcaption>
    </figure>
    <template v-if="!released">
      <v-select
        v-if="choices.length > 1"
        v-model="subject"
        :items="choices"
        :label="t('bench.subject')"
      />
      <v-text-field v-model="shows" :label="t('bench.caption')" maxlength="200" />
      <FileButton
        :label="t('bench.photograph-of', { label })"
        accept="image/*"
        capture="environment"
        :disabled="busy"
        @chosen="add"
        >{{ t('bench.add-photograph') }}</FileButton
      >
    </template>
    <RefusalNote v-model="refused" />
    <ReasonDialog
      :model-value="waits !== null"
      :title="t('bench.remove-photograph-2')"
      :text="t('bench.is-already-tested-the-report-states-the', { label })"
      :act="t('bench.do-it-with-the-reason')"
      @update:model-value="waits = null"
      @given="(reason) => waits?.(reason)"
    />
  </details>
</template>

<style scoped>
.photos {
  display: grid;
  gap: 8px;
}

summary {
  min-height: 28px;
  color: var(--ink-2);
  cursor: pointer;
}

figure {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: 10px;
  margin: 6px 0;
}

img {
  width: 96px;
  border-radius: 5px;
}

figcaption {
  display: grid;
  gap: 2px;
  align-content: start;
  justify-items: start;
}

input[type='file'] {
  margin-top: 8px;
  max-width: 100%;
  font: inherit;
  font-size: 14px;
}
</style>
