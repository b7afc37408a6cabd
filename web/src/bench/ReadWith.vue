<script setup lang="ts">
import { computed } from 'vue'
import { useInstruments } from '@/instruments/instruments'

/** Which instrument readings from elsewhere were taken with; those that serve the method first. */
const serial = defineModel<string>({ required: true })
const props = defineProps<{ method: string }>()
const instruments = useInstruments()
const choices = computed(() => {
  const usable = (instruments.data.value ?? []).filter((each) => !each.retired)
  const serves = usable.filter((each) => each.serves.includes(props.method))
  return [...serves, ...usable.filter((each) => !serves.includes(each))]
})
</script>

<template>
  <label class="small quiet">
    Read with
    <select v-model="serial">
      <option value="">instrument not recorded</option>
      <option v-for="each in choices" :key="each.serial" :value="each.serial">
        {{ each.station || each.name }}, {{ each.serial }}
      </option>
    </select>
  </label>
</template>

<style scoped>
select {
  min-height: 34px;
  border: 0;
  border-bottom: 1.5px dotted var(--ink-3);
  background: transparent;
  color: var(--blue);
  font: inherit;
  appearance: auto;
}
</style>
