<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { useNow } from '@/app/clock'
import { useSession } from '@/app/session'
import { idsOf } from '@/conditioning/groups'
import { useInHand } from '@/conditioning/inHand'
import InHandTray from '@/conditioning/InHandTray.vue'
import RoomDialog from '@/conditioning/RoomDialog.vue'
import RoomList from '@/conditioning/RoomList.vue'
import RoomView from '@/conditioning/RoomView.vue'
import WaitingGroups from '@/conditioning/WaitingGroups.vue'
import FromRecord from '@/ui/FromRecord.vue'
import { useKeys } from '@/ui/keys'
import RefusalNote from '@/ui/RefusalNote.vue'
import { offerUndo } from '@/ui/undo'

/** Where specimens wait: which wait to be placed, and which are in each room. */
const now = useNow()
const { me } = useSession()
const { act, refused, busy } = useAct()
const { inHand, scanSays, scan, putDown } = useInHand()
const query = useQuery({
  queryKey: ['conditioning'],
  queryFn: () => ask(client.GET('/api/conditioning')),
})
const rooms = computed(() => query.data.value?.enclosures ?? [])
const waiting = computed(() => query.data.value?.waiting ?? [])
const picked = ref<number | null>(null)
const room = computed<Schemas['EnclosureView'] | null>(
  () =>
    rooms.value.find((room) => room.id === picked.value) ??
    rooms.value.find((room) => room.groups.some((group) => group.awaited)) ??
    rooms.value[0] ??
    null,
)
const mayMend = computed(() => me.value?.may.includes('set-limits') ?? false)
const mending = ref(false)
const mended = ref<Schemas['EnclosureView'] | null>(null)
function mend(which: Schemas['EnclosureView'] | null) {
  mended.value = which
  mending.value = true
}
const typed = ref('')
function type() {
  void scan(typed.value)
  typed.value = ''
}

async function place(roomId: number, ids: number[], confirmed: string[] = []) {
  const isPlaced = await act(() =>
    ask(
      client.POST('/api/enclosures/{enclosure_id}/placements', {
        params: { path: { enclosure_id: roomId } },
        body: { specimen_ids: ids, confirmed },
      }),
    ),
  )
  if (!isPlaced) return
  picked.value = roomId
  putDown()
  const room = rooms.value.find((each) => each.id === roomId)?.name ?? ''
  offerUndo(
    t('conditioning.placed-in', {
      specimens: counted('conditioning.specimens', ids.length),
      room,
    }),
    () => ask(client.POST('/api/enclosures/removals', { body: { specimen_ids: ids } })),
  )
}
async function takeOut(ids: number[]) {
  const out = await act(() =>
    ask(client.POST('/api/enclosures/removals', { body: { specimen_ids: ids } })),
  )
  if (out) putDown()
}
/** Enter belongs to the job that the person came from; without one it places nothing. */
const jobId = Number(useRoute().query.job) || null
const own = computed(() => waiting.value.find((group) => group.job_id === jobId) ?? null)
const ordered = computed(() =>
  own.value ? [own.value, ...waiting.value.filter((group) => group !== own.value)] : waiting.value,
)
function placeOwn() {
  const group = own.value
  if (group?.enclosures.length && !group.early.length)
    void place(group.enclosures[0]!, idsOf(group), [])
}

useKeys(() =>
  own.value?.enclosures.length
    ? [
        {
          key: 'Enter',
          text: t('conditioning.start-conditioning-of', { job_number: own.value.job_number }),
          act: placeOwn,
        },
      ]
    : [],
)
</script>

<template>
  <FromRecord v-if="!query.data.value" :query="query" />
  <template v-else>
    <header class="top">
      <h1>{{ t('conditioning.conditioning') }}</h1>
      <form class="scan" @submit.prevent="type">
        <v-text-field
          v-model="typed"
          class="mono"
          :label="t('conditioning.scan-or-type-specimen-codes')"
          density="compact"
          autocomplete="off"
        />
      </form>
    </header>
    <RefusalNote v-model="refused" />
    <InHandTray
      v-if="inHand.length || scanSays"
      :in-hand="inHand"
      :text="scanSays"
      :room="room"
      :busy="busy"
      @place="(ids) => place(room!.id, ids)"
      @out="takeOut"
      @put-down="putDown"
    />
    <WaitingGroups
      v-if="waiting.length"
      :waiting="ordered"
      :own="own"
      :rooms="rooms"
      :more="query.data.value.waiting_more"
      :now="now"
      :busy="busy"
      @place="place"
    />
    <div class="rooms">
      <RoomList
        :rooms="rooms"
        :open="room?.id ?? null"
        :may-add="mayMend"
        @pick="picked = $event"
        @add="mend(null)"
      />
      <RoomView
        v-if="room"
        :key="room.id"
        :room="room"
        :policy="query.data.value.policy"
        :now="now"
        :busy="busy"
        :may-mend="mayMend"
        :act="act"
        @out="takeOut"
        @mend="mend(room)"
      />
    </div>
    <RoomDialog v-model="mending" :room="mended" :atmospheres="query.data.value.atmospheres" />
  </template>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 6px 18px;
  justify-content: space-between;
  margin-bottom: 10px;
}

.scan {
  width: 280px;
}

.rooms {
  display: grid;
  grid-template-columns: 212px minmax(0, 1fr);
  gap: 28px;
}

@media (max-width: 1100px) {
  .rooms {
    grid-template-columns: 160px minmax(0, 1fr);
    gap: 18px;
  }
}

@media (max-width: 860px) {
  .rooms {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
