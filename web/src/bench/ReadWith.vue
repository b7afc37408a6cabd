<script setup lang="ts">
import { t } from '@/ui/words'
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
  <v-select
    v-model="serial"
    density="compact"
    :label="t('bench.read-with')"
    :items="[
      { value: '', title: t('bench.instrument-not-recorded') },
      ...choices.map((each) => ({
        value: each.serial,
        title: `${each.station || each.name}, ${each.serial}`,
      })),
    ]"
  />
</template>
