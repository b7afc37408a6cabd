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
  ['unplug', 'meets an unplugged line'],
  ['rubbish', 'meets garbled data'],
]
const FAULTS: Record<string, [string, string][]> = {
  frame: [
    ['none', 'behaves normally'],
    ['jaw-slip', 'slips in the jaw'],
    ['extensometer-slip', 'makes the extensometer slip'],
    ...LINE,
  ],
  'compression-rig': [
    ['none', 'behaves normally'],
    ['wrong-sign', 'gives the wrong sign'],
    ...LINE,
  ],
  'burst-rig': [['none', 'behaves normally'], ['slow-pump', 'is pumped too slowly'], ...LINE],
}
const SHOWS: [string, string][] = [
  ['none', 'works normally'],
  ['rubbish', 'sends garbled data'],
  ['silent', 'does not answer'],
]
/** What can go wrong at one kind of device beside its line. */
const MORE: Record<string, [string, string][]> = {
  'rub-rig': [['jumps-back', 'counts backwards']],
  'melt-rig': [['runs-cold', 'runs 4 °C too cold']],
}
const faults = computed(
  () => FAULTS[props.station.kind] ?? [...SHOWS, ...(MORE[props.station.kind] ?? [])],
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
