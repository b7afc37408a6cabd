<script setup lang="ts">
import { computed } from 'vue'
import type { BenchView } from '@/bench/bench'
import { fixed } from '@/ui/numbers'
import PretendField from '@/ui/PretendField.vue'

/** A simulated station: how fast it goes, and what shall happen to the next specimen. */
const props = defineProps<{
  station: NonNullable<BenchView['station']>
  shows: BenchView['shows']
}>()

defineEmits<{ pretend: [fault: string] }>()
const LINE: [string, string][] = [
  ['unplug', 'meets a pulled plug'],
  ['rubbish', 'meets a bad line'],
]
const FAULTS: Record<string, [string, string][]> = {
  frame: [['none', 'tears true'], ['jaw-slip', 'slips in the jaw'], ...LINE],
  'compression-rig': [['none', 'bends true'], ['wrong-sign', 'reads upside down'], ...LINE],
  'burst-rig': [['none', 'bursts true'], ['slow-pump', 'is pumped too slowly'], ...LINE],
}
const SHOWS: [string, string][] = [
  ['none', 'reads true'],
  ['rubbish', 'sends rubbish'],
  ['silent', 'does not answer'],
]
const COUNTS: [string, string][] = [...SHOWS, ['jumps-back', 'counts backwards']]
const faults = computed(
  () => FAULTS[props.station.kind] ?? (props.station.kind === 'rub-rig' ? COUNTS : SHOWS),
)
const records = computed(() => props.station.kind in FAULTS)
const plain = (value: string | number) =>
  typeof value === 'number' ? fixed(value, value < 10 ? 2 : 1) : value.replace(/-/g, ' ')
</script>

<template>
  <p class="small quiet">
    {{ station.name }} is simulated, {{ station.pace }} times as fast.
    {{ records ? 'The next specimen' : 'From now on it' }}
    <PretendField
      :faults="faults"
      label="How the next specimen behaves"
      @pretend="$emit('pretend', $event)"
    />
  </p>
  <p v-if="shows.length" class="small quiet shows">
    What this specimen shows:
    <template v-for="(shown, place) in shows" :key="shown.name"
      ><template v-if="place">, </template>{{ shown.title.toLowerCase() }}
      <b>{{ plain(shown.value) }}</b></template
    >
  </p>
</template>
