<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import type { useAct } from '@/api/queries'
import { barsOf } from '@/conditioning/groups'
import PlacedGroup from '@/conditioning/PlacedGroup.vue'
import RoomLog from '@/conditioning/RoomLog.vue'
import SetPointDialog from '@/conditioning/SetPointDialog.vue'
import { useSession } from '@/app/session'
import ActButton from '@/ui/ActButton.vue'
import SimulationField from '@/ui/SimulationField.vue'
import StateNote from '@/ui/StateNote.vue'
import { together } from '@/ui/phrases'

/** One enclosure: how it is kept, and what hangs in it. */
const props = defineProps<{
  room: Schemas['EnclosureView']
  policy: string
  now: number
  busy: boolean
  mayMend: boolean
  act: ReturnType<typeof useAct>['act']
}>()
const { me } = useSession()
defineEmits<{ out: [ids: number[]]; mend: [] }>()
const setting = ref(false)
const awaited = computed(() => props.room.groups.filter((group) => group.awaited))
const idle = computed(() => props.room.groups.filter((group) => !group.awaited))

const weigh = (specimen_id: number, mass_g: number) =>
  props.act(() =>
    ask(
      client.POST('/api/specimens/{specimen_id}/weighings', {
        params: { path: { specimen_id } },
        body: { mass_g },
      }),
    ),
  )
const setPoint = (requested: Schemas['SetPointRequest']) =>
  props.act(() =>
    ask(
      client.PUT('/api/enclosures/{enclosure_id}/set-point', {
        params: { path: { enclosure_id: props.room.id } },
        body: requested,
      }),
    ),
  )
const confirmPoint = () =>
  props.act(() =>
    ask(
      client.POST('/api/enclosures/{enclosure_id}/set-point/confirm', {
        params: { path: { enclosure_id: props.room.id } },
      }),
    ),
  )
const mayConfirm = computed(
  () => (me.value?.may.includes('equip') ?? false) && props.room.requested_by !== me.value?.id,
)
const simulate = (fault: string) =>
  props.act(() =>
    ask(
      client.POST('/api/enclosures/{enclosure_id}/simulation', {
        params: { path: { enclosure_id: props.room.id } },
        body: { fault },
      }),
    ),
  )
const readNow = () => props.act(() => ask(client.POST('/api/enclosures/read-loggers')))
</script>

<template>
  <section class="room">
    <div v-if="room.requested" class="flag small">
      <span>{{
        t('conditioning.a-set-point-is-waiting-for-confirmation', { requested: room.requested })
      }}</span>
      <ActButton v-if="mayConfirm" :disabled="busy" @click="confirmPoint">{{
        t('conditioning.confirm-set-point')
      }}</ActButton>
    </div>
    <RoomLog
      :room="room"
      :periods="barsOf(awaited)"
      :now="now"
      @change="setting = true"
      @bring="(work) => act(work)"
    />
    <div class="rod" aria-hidden="true" />
    <StateNote
      v-if="room.groups.length === 0"
      :title="t('conditioning.no-specimens')"
      :text="t('conditioning.scan-specimens-or-place-the-specimens')"
    />
    <PlacedGroup
      v-for="group in awaited"
      :key="`${group.job_id} ${group.test} ${group.placed_at}`"
      :group="group"
      :policy="policy"
      :now="now"
      :busy="busy"
      :logged="room.logged"
      @out="$emit('out', $event)"
      @weigh="weigh"
    />
    <div v-if="idle.length" class="leftover">
      <p>
        <strong>{{ t('conditioning.spares-no-longer-needed') }}</strong><br />
        <span v-for="group in idle" :key="group.job_id" class="quiet small">
          <span class="mono">{{ group.job_number }}</span>
          {{ together(group.specimens.map((specimen) => specimen.label)) }}&ensp;
        </span>
      </p>
      <ActButton
        :disabled="busy"
        @click="
          $emit(
            'out',
            idle.flatMap((group) => group.specimens.map((specimen) => specimen.specimen_id)),
          )
        "
      >
        {{ t('conditioning.take-spares-out') }}
      </ActButton>
    </div>
    <p v-if="mayMend" class="small quiet simulated">
      {{
        room.capacity
          ? t('conditioning.room-for-specimens', { capacity: room.capacity })
          : t('conditioning.capacity-not-entered')
      }}
      <ActButton kind="link" @click="$emit('mend')">{{
        t('conditioning.edit-or-close-room')
      }}</ActButton>
    </p>
    <div v-if="room.simulated" class="small quiet simulated">
      <SimulationField
        kind="logger"
        :label="t('conditioning.how-the-simulated-logger-behaves')"
        @simulate="simulate"
      />
      <ActButton kind="link" :disabled="busy" @click="readNow">{{
        t('conditioning.read-loggers-now')
      }}</ActButton>
    </div>
    <SetPointDialog v-model="setting" :room="room" @set="setPoint" />
  </section>
</template>

<style scoped>
.flag {
  display: flex;
  gap: 18px;
  align-items: center;
  justify-content: space-between;
  margin: 8px 0;
  padding: 6px 12px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

.rod {
  height: 5px;
  margin: 6px 0 0;
  border-radius: 3px;
  background: var(--ink);
}

.leftover {
  display: flex;
  gap: 24px;
  align-items: center;
  justify-content: space-between;
  padding: 12px 0;
  border-bottom: 1px solid var(--hair);
}

.simulated {
  display: flex;
  gap: 18px;
  align-items: center;
  max-width: 460px;
  margin-top: 10px;
}
</style>
