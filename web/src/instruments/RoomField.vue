<script setup lang="ts">
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
function choose(event: Event) {
  const chosen = Number((event.target as HTMLSelectElement).value)
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
  <select
    :value="instrument.room_id ?? 0"
    :disabled="disabled"
    aria-label="Room of the nearest logger"
    @change="choose"
  >
    <option :value="0">no logger nearby</option>
    <option v-for="room in rooms.data.value?.enclosures ?? []" :key="room.id" :value="room.id">
      {{ room.name }}
    </option>
  </select>
  <RefusalNote v-model="refused" />
</template>

<style scoped>
select {
  min-height: 30px;
  border: 0;
  border-bottom: 1.5px dotted var(--ink-3);
  background: transparent;
  color: var(--blue);
  font: inherit;
  appearance: auto;
}
</style>
