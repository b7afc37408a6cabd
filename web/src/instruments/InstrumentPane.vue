<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import { useSession } from '@/app/session'
import BarrelCheck from '@/instruments/BarrelCheck.vue'
import CalibrationDialog from '@/instruments/CalibrationDialog.vue'
import CheckBlock from '@/instruments/CheckBlock.vue'
import CheckDialog from '@/instruments/CheckDialog.vue'
import AttachmentsPane from '@/office/AttachmentsPane.vue'
import NonconformityLinks from '@/office/NonconformityLinks.vue'
import InstrumentLog from '@/instruments/InstrumentLog.vue'
import RoomField from '@/instruments/RoomField.vue'
import { useInstrumentPages, type Instrument } from '@/instruments/instruments'
import ActButton from '@/ui/ActButton.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf, moment } from '@/ui/dates'

/** One instrument: what it is, whether it may be used, its checks, and what happened to it. */
const props = defineProps<{ instrument: Instrument }>()
const emit = defineEmits<{ gone: [] }>()
const { me } = useSession()
const { act, refused, busy } = useAct()
const pages = useInstrumentPages(computed(() => props.instrument.serial))
const mayEquip = computed(() => me.value?.may.includes('equip') ?? false)
const mayTest = computed(() => me.value?.may.includes('test') ?? false)
const isOut = computed(() => !props.instrument.in_service)
const asking = ref<'out' | 'back' | 'retire' | null>(null)
const asks = computed({
  get: () => asking.value !== null,
  set: (open: boolean) => {
    if (!open) asking.value = null
  },
})
const calibrating = ref(false)
const beginning = ref(false)
const ASKED = {
  out: [
    t('instruments.take-out-of-service'),
    t('instruments.no-test-can-use-the-instrument-until-it'),
    t('instruments.take-out-of-service'),
  ],
  back: [
    t('instruments.return-to-service'),
    t('instruments.record-the-repair-in-the-log-of-the'),
    t('instruments.return-to-service'),
  ],
  retire: [
    t('instruments.retire-instrument'),
    t('instruments.the-instrument-cannot-be-used-again-its'),
    t('instruments.retire-instrument'),
  ],
} as const

async function give(reason: string) {
  const requested = asking.value
  const answer = { params: { path: { serial: props.instrument.serial } }, body: { reason } }
  await act(() => {
    if (requested === 'back')
      return ask(client.POST('/api/instruments/{serial}/return-to-service', answer))
    if (requested === 'retire') return ask(client.POST('/api/instruments/{serial}/retire', answer))
    return ask(client.POST('/api/instruments/{serial}/take-out-of-service', answer))
  })
}
async function remove() {
  const params = { path: { serial: props.instrument.serial } }
  if (await act(() => ask(client.DELETE('/api/instruments/{serial}', { params })))) emit('gone')
}
</script>

<template>
  <section>
    <header>
      <div>
        <h2>{{ instrument.station || instrument.name }}</h2>
        <p class="quiet">
          {{ instrument.name }}, <span class="mono">{{ instrument.serial }}</span>
          <template v-if="instrument.simulated"> {{ t('instruments.simulated') }}</template>
          <template v-else-if="!instrument.has_line"> {{ t('instruments.read-by-hand') }}</template>
        </p>
      </div>
      <div v-if="!instrument.retired" class="acts">
        <ActButton v-if="mayEquip" @click="calibrating = true">{{
          t('instruments.record-calibration')
        }}</ActButton>
        <ActButton v-if="isOut && mayEquip" @click="asking = 'back'">{{
          t('instruments.return-to-service')
        }}</ActButton>
        <ActButton v-else-if="!isOut && mayTest" @click="asking = 'out'">{{
          t('instruments.take-out-of-service')
        }}</ActButton>
      </div>
    </header>
    <p v-if="instrument.text" class="text" :class="instrument.status">
      {{ instrument.text }}
    </p>
    <RefusalNote v-model="refused" />
    <dl>
      <dt>{{ t('instruments.certificate') }}</dt>
      <dd>
        <i18n-t keypath="instruments.of-due" scope="global"
          ><template #certificate
            ><b class="mono">{{ instrument.certificate }}</b></template
          ><template #calibrated>{{ dayOf(instrument.calibrated_at) }}</template
          ><template #due
            ><span :class="{ bad: instrument.overdue }">{{
              dayOf(instrument.calibration_due_at)
            }}</span></template
          ></i18n-t
        >
      </dd>
      <template v-if="instrument.range_max">
        <dt>{{ t('instruments.range') }}</dt>
        <dd class="mono">
          {{
            t('instruments.to', {
              range_min: instrument.range_min ?? 0,
              range_max: instrument.range_max,
              unit: instrument.unit,
            })
          }}
        </dd>
      </template>
      <template v-if="instrument.station_id">
        <dt>{{ t('instruments.room') }}</dt>
        <dd>
          <RoomField :instrument="instrument" :disabled="!mayEquip || busy" />
        </dd>
      </template>
      <dt>{{ t('instruments.used-by') }}</dt>
      <dd class="mono small serves">
        <router-link v-for="id in instrument.serves" :key="id" :to="`/methods/${id}`">{{
          id
        }}</router-link>
        <span v-if="!instrument.serves.length" class="quiet">{{ t('instruments.nothing') }}</span>
      </dd>
    </dl>
    <template v-if="pages.touched.data.value?.length">
      <h3 class="bad">{{ t('instruments.tested-since-the-last-passed-check') }}</h3>
      <ul class="touched">
        <li v-for="run in pages.touched.data.value" :key="run.run_id">
          <router-link :to="`/judge/${run.job_id}`" class="mono">{{ run.job_number }}</router-link>
          <span class="mono small">{{ run.method }} {{ run.label }}</span>
          <span class="small quiet"
            >{{ moment(run.at) }}{{ run.released ? t('instruments.released') : '' }}</span
          >
        </li>
      </ul>
    </template>
    <div class="title">
      <h3>{{ t('instruments.checks-between-calibrations') }}</h3>
      <ActButton v-if="mayEquip && !instrument.retired" @click="beginning = true">
        {{ t('instruments.add-check') }}
      </ActButton>
    </div>
    <p v-if="!pages.checks.data.value?.length" class="quiet">
      {{ t('instruments.no-checks-a-reference-material-a-foil-a') }}
    </p>
    <CheckBlock
      v-for="check in pages.checks.data.value ?? []"
      :key="check.id"
      :check="check"
      :may-end="mayEquip"
    />
    <BarrelCheck
      v-if="instrument.kind === 'melt-rig'"
      :serial="instrument.serial"
      :may-write="mayTest && !instrument.retired"
    />
    <AttachmentsPane subject="instrument" :of="instrument.serial" />
    <NonconformityLinks :serial="instrument.serial" />
    <InstrumentLog
      :serial="instrument.serial"
      :events="pages.log.data.value ?? []"
      :may-write="mayTest && !instrument.retired"
    />
    <p v-if="mayEquip && !instrument.retired" class="ending small">
      <ActButton kind="link" :disabled="busy" @click="asking = 'retire'">
        {{ t('instruments.retire-instrument-2') }}
      </ActButton>
      <ActButton kind="link" :disabled="busy" @click="remove">{{
        t('instruments.added-by-mistake-delete')
      }}</ActButton>
    </p>
    <ReasonDialog
      v-if="asking"
      v-model="asks"
      :title="ASKED[asking][0]"
      :text="ASKED[asking][1]"
      :act="ASKED[asking][2]"
      @given="give"
    />
    <CalibrationDialog v-model="calibrating" :instrument="instrument" />
    <CheckDialog v-model="beginning" :instrument="instrument" />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 12px;
  align-content: start;
  min-width: 0;
}

header,
.title {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 24px;
  align-items: center;
  justify-content: space-between;
}

.acts {
  display: flex;
  gap: 10px;
}

.text {
  padding: 8px 12px;
  border-left: 5px solid var(--ochre);
  background: var(--sunk);
}

.text.out {
  border-color: var(--brick);
}

dl {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 6px 16px;
  align-items: baseline;
}

dt {
  color: var(--ink-2);
}

dd {
  margin: 0;
}

.serves {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}

.touched {
  margin: 0;
  padding: 0;
  list-style: none;
}

.touched li {
  display: grid;
  grid-template-columns: 90px 220px 1fr;
  gap: 12px;
  align-items: baseline;
  min-height: 30px;
}

.ending {
  display: flex;
  gap: 22px;
}
</style>
