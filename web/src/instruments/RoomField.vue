<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import type { Instrument } from '@/instruments/instruments'
import RefusalNote from '@/ui/RefusalNote.vue'

/** The enclosure whose logger stands nearest to a station: its air is written down with every run. */
const props = defineProps<{ instrument: Instrument; disabled: boolean }>()
const { act, refused } = useAct()
const rooms = useQuery({
  queryKey: ['conditioning'],
  queryFn: () => ask(client.GET('/api/conditioning')),
})
function choose(chosen: number) {
  return act(() =>
    ask(
      client.PUT('/api/instruments/{serial}/room', {
        params: { path: { serial: props.instrument.serial } },
        body: { enclosure_id: chosen || null },
      }),
    ),
  )
}
</script>

<template>
  <v-select
    :model-value="instrument.room_id ?? 0"
    density="compact"
    single-line
    :aria-label="t('instruments.room-of-the-nearest-logger')"
    :disabled="disabled"
    :items="[
      { value: 0, title: t('instruments.no-logger-nearby') },
      ...(rooms.data.value?.enclosures ?? []).map(({ id, name }) => ({ value: id, title: name })),
    ]"
    @update:model-value="choose"
  />
  <RefusalNote v-model="refused" />
</template>
