<script setup lang="ts">
import { computed } from 'vue'
import type { BenchView } from '@/bench/bench'
import PretendField from '@/ui/PretendField.vue'

/** A simulated station: how fast it goes, and what shall happen to the next specimen. */
const props = defineProps<{ station: NonNullable<BenchView['station']> }>()
defineEmits<{ pretend: [fault: string] }>()
const LINE: [string, string][] = [
  ['unplug', 'meets a pulled plug'],
  ['rubbish', 'meets a bad line'],
]
const FAULTS: Record<string, [string, string][]> = {
  frame: [['none', 'tears true'], ['jaw-slip', 'slips in the jaw'], ...LINE],
  'compression-rig': [['none', 'bends true'], ['wrong-sign', 'reads upside down'], ...LINE],
  'burst-rig': [['none', 'bursts true'], ...LINE],
}
const faults = computed(() => FAULTS[props.station.kind] ?? [])
</script>

<template>
  <p class="small quiet">
    {{ station.name }} is simulated, {{ station.pace }} times as fast. The next specimen
    <PretendField
      :faults="faults"
      label="How the next specimen behaves"
      @pretend="$emit('pretend', $event)"
    />
  </p>
</template>
