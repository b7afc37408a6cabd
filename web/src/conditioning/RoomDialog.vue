<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, reactive, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import { vFocus } from '@/ui/focus'
import { figureFrom } from '@/ui/numbers'
import { useDraftOf } from '@/ui/drafts'
import FormDialog from '@/ui/FormDialog.vue'

/** An enclosure, new or as it shall be: what it is called, its atmosphere, its room, its logger. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  room: Schemas['EnclosureView'] | null
  atmospheres: Record<string, string>
}>()
const { act, refused, busy } = useAct()
const typed = reactive({ name: '', atmosphere: '', capacity: '', host: '', port: '', device: '' })
const items = computed(() =>
  Object.entries(props.atmospheres).map(([value, title]) => ({ value, title })),
)
watch(open, (isOpen) => {
  if (!isOpen) return
  const { room } = props
  refused.value = ''
  Object.assign(typed, {
    name: room?.name ?? '',
    atmosphere: room?.atmosphere ?? items.value[0]?.value ?? '',
    capacity: String(room?.capacity ?? ''),
    host: room?.host ?? '',
    port: String(room?.port ?? ''),
    device: room?.device ?? '',
  })
})
const number = (text: string) => (text.trim() ? figureFrom(text) : null)
const draft = useDraftOf(() => `room/${props.room?.id ?? 'new'}`, typed)
const ofRoom = computed(() => ({ params: { path: { enclosure_id: props.room?.id ?? 0 } } }))

async function done(work: () => Promise<unknown>) {
  if (!(await act(work))) return
  draft.saved()
  open.value = false
}
function keep() {
  const body = {
    name: typed.name.trim(),
    atmosphere: typed.atmosphere,
    capacity: number(typed.capacity),
    host: typed.host.trim() || null,
    port: number(typed.port),
    device: typed.device.trim() || null,
  }
  return done(() =>
    props.room
      ? ask(
          client.PUT('/api/enclosures/{enclosure_id}', {
            ...ofRoom.value,
            body: { ...body, revision: props.room.revision },
          }),
        )
      : ask(client.POST('/api/enclosures', { body })),
  )
}
const close = () =>
  done(() => ask(client.POST('/api/enclosures/{enclosure_id}/close', ofRoom.value)))
</script>

<template>
  <FormDialog
    v-model="open"
    v-model:refused="refused"
    :draft="draft"
    :title="room ? room.name : t('conditioning.add-room-or-chamber')"
    :action="room ? t('conditioning.save-changes') : t('conditioning.add-room')"
    :wide="640"
    :disabled="busy || !typed.name.trim()"
    @confirm="keep"
  >
    <p v-if="room" class="quiet">
      {{ t('conditioning.the-atmosphere-can-be-changed-only') }}
    </p>
    <div class="leaf-fields">
      <v-text-field v-model="typed.name" v-focus :label="t('conditioning.name')" />
      <v-text-field
        v-model="typed.capacity"
        class="mono"
        :label="t('conditioning.capacity-specimens')"
      />
      <v-select
        v-model="typed.atmosphere"
        class="wide"
        :label="t('conditioning.atmosphere')"
        :items="items"
      />
      <v-text-field
        v-model="typed.host"
        class="mono"
        :label="t('conditioning.logger-address-optional')"
      />
      <v-text-field v-model="typed.port" class="mono" :label="t('conditioning.port')" />
      <v-text-field
        v-model="typed.device"
        class="mono"
        :label="t('conditioning.serial-number-of-the-logger')"
      />
    </div>
    <template #beside>
      <ActButton v-if="room" type="button" :disabled="busy" @click="close">
        {{ t('conditioning.close-room') }}
      </ActButton>
    </template>
  </FormDialog>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>
