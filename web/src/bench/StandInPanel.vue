<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { useDeviceKinds } from '@/api/queries'
import type { BenchView } from '@/bench/bench'
import { fixed } from '@/ui/numbers'
import SimulationField from '@/ui/SimulationField.vue'

/** A simulated station: how fast it goes, and what shall happen to the next specimen. */
const props = defineProps<{
  station: NonNullable<BenchView['station']>
  shows: BenchView['shows']
}>()

defineEmits<{ simulate: [fault: string] }>()
const { kindOf } = useDeviceKinds()
const records = computed(() => kindOf(props.station.kind)?.role === 'recorder')
const plain = (value: string | number) =>
  typeof value === 'number' ? fixed(value, value < 10 ? 2 : 1) : value.replace(/-/g, ' ')
</script>

<template>
  <p class="small quiet">
    {{
      t('bench.is-simulated-times-as-fast-as-the-real', { name: station.name, pace: station.pace })
    }}
  </p>
  <SimulationField
    :kind="station.kind"
    :label="records ? t('bench.behaviour-in-the-next-test') : t('bench.behaviour-from-now-on')"
    @simulate="$emit('simulate', $event)"
  />
  <p v-if="shows.length" class="small quiet shows">
    {{ t('bench.simulated-behaviour') }}
    <template v-for="(shown, place) in shows" :key="shown.name"
      ><template v-if="place">, </template>{{ shown.title.toLowerCase() }}
      <b>{{ plain(shown.value) }}</b></template
    >
  </p>
</template>
