<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import { figureFrom, fixed } from '@/ui/numbers'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/dates'

/** The check of a barrel: display beside reference for each sensor, the sum, and its history. */
const props = defineProps<{ serial: string; mayWrite: boolean }>()
const { act, refused, busy } = useAct()
const params = { path: { serial: props.serial } }
const checks = useQuery({
  queryKey: ['instrument', computed(() => props.serial), 'barrel'],
  queryFn: () => ask(client.GET('/api/instruments/{serial}/barrel', { params })),
})
const SENSORS: Schemas['SensorRequest']['sensor'][] = ['upper', 'lower']
const typed = reactive(
  Object.fromEntries(SENSORS.map((name) => [name, { displayed: '', reference: '', old: '' }])),
)
const reference = ref('')
const filled = computed(() => SENSORS.filter((name) => typed[name]!.displayed.trim()))

async function save() {
  const body = {
    reference_serial: reference.value,
    sensors: filled.value.map((sensor) => ({
      sensor,
      displayed_c: figureFrom(typed[sensor]!.displayed),
      reference_c: figureFrom(typed[sensor]!.reference),
      old_offset_c: figureFrom(typed[sensor]!.old || '0'),
    })),
  }
  if (await act(() => ask(client.POST('/api/instruments/{serial}/barrel', { params, body }))))
    for (const name of SENSORS)
      Object.assign(typed[name]!, { displayed: '', reference: '', old: '' })
}
</script>

<template>
  <section>
    <h3>{{ t('instruments.barrel-temperature') }}</h3>
    <p class="quiet small">
      {{ t('instruments.barrel-filled-and-settled-the-reference') }}
    </p>
    <form v-if="mayWrite" @submit.prevent="save">
      <div v-for="name in SENSORS" :key="name" class="row">
        <b>{{ name }}</b>
        <v-text-field
          v-model="typed[name]!.displayed"
          class="mono"
          :label="t('instruments.instrument-shows')"
          suffix="°C"
        />
        <v-text-field
          v-model="typed[name]!.reference"
          class="mono"
          :label="t('instruments.reference')"
          suffix="°C"
        />
        <v-text-field
          v-model="typed[name]!.old"
          class="mono"
          :label="t('instruments.offset-set')"
          suffix="°C"
        />
      </div>
      <div class="row">
        <span />
        <v-text-field
          v-model="reference"
          class="mono"
          :label="t('instruments.reference-thermometer-serial')"
        />
        <ActButton :disabled="busy || !filled.length || !reference.trim()">{{
          t('instruments.compute-offset')
        }}</ActButton>
      </div>
      <RefusalNote v-model="refused" />
    </form>
    <div v-for="(check, place) in checks.data.value ?? []" :key="place" class="done">
      <p class="small quiet">{{ dayOf(check.at) }}, {{ check.by }}</p>
      <p v-for="sensor in check.sensors" :key="sensor.sensor" :class="{ bad: sensor.review }">
        <b
          >{{ sensor.sensor }} <span class="mono">{{ fixed(sensor.new_offset_c, 1) }} °C</span></b
        >: {{ sensor.text }}
      </p>
    </div>
  </section>
</template>

<style scoped>
section,
form {
  display: grid;
  gap: 8px;
}

.row {
  display: grid;
  grid-template-columns: 60px repeat(3, minmax(0, 170px));
  gap: 12px;
  align-items: center;
}

.done {
  padding-top: 6px;
  border-top: 1px solid var(--hair);
}
</style>
