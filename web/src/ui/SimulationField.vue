<script setup lang="ts">
import { computed, ref } from 'vue'
import { useDeviceKinds } from '@/api/queries'

/** What a simulated device of this kind does from now on; real ones have none. */
const props = defineProps<{ kind: string; label: string }>()
const emit = defineEmits<{ simulate: [fault: string] }>()
const { faultsOf } = useDeviceKinds()
const faults = computed(() => faultsOf(props.kind))
const picked = ref<string | null>(null)
const chosen = computed(() => picked.value ?? faults.value[0]?.code ?? null)
function choose(fault: string) {
  picked.value = fault
  emit('simulate', fault)
}
</script>

<template>
  <v-select
    :model-value="chosen"
    density="compact"
    :label="label"
    :items="faults"
    item-value="code"
    item-title="title"
    @update:model-value="choose"
  />
</template>
