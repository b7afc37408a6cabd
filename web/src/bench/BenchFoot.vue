<script setup lang="ts">
import { ref } from 'vue'
import type { BenchView } from '@/bench/bench'
import type { Recorded } from '@/bench/pictures/recorded'
import StandInPanel from '@/bench/StandInPanel.vue'
import ActButton from '@/ui/ActButton.vue'

/** Quiet things below the next action: where the data is from, files, the stand-in. */
defineProps<{ view: BenchView; recorded: Recorded; jobId: number; filed: boolean }>()
const emit = defineEmits<{ file: [file: File]; simulate: [fault: string]; station: [id: number] }>()
const field = ref<HTMLInputElement | null>(null)
function chosen() {
  const file = field.value?.files?.[0]
  if (file) emit('file', file)
  if (field.value) field.value.value = ''
}
defineExpose({ open: () => field.value?.click() })
</script>

<template>
  <div class="bottom">
    <template v-if="recorded.shown.value">
      <p v-if="recorded.shown.value.source_name" class="small quiet">
        From {{ recorded.shown.value.source_name }}: {{ recorded.shown.value.said.join('; ') }}
      </p>
      <p class="small quiet">
        <template v-if="recorded.shown.value.samples">
          {{ recorded.shown.value.samples }} samples, </template
        >{{ recorded.shown.value.end_reason }}.
        <a
          v-if="recorded.shown.value.samples"
          :href="`/api/runs/${recorded.shown.value.id}/trace.csv`"
          >raw data</a
        >
      </p>
    </template>
    <ActButton v-if="filed" @click="field?.click()"> Import trace from CSV <kbd>I</kbd> </ActButton>
    <input ref="field" type="file" accept=".csv,.txt,text/csv" hidden @change="chosen" />
    <p class="small">
      <router-link :to="`/readings/${jobId}`">Enter or import readings</router-link>
    </p>
    <label v-if="view.stations.length > 1 && view.phase === 'before'" class="small quiet">
      Station
      <select
        :value="view.station?.id"
        @change="$emit('station', Number(($event.target as HTMLSelectElement).value))"
      >
        <option v-for="station in view.stations" :key="station.id" :value="station.id">
          {{ station.name }}
        </option>
      </select>
    </label>
    <StandInPanel
      v-if="view.station?.simulated"
      :station="view.station"
      :shows="view.shows"
      @simulate="$emit('simulate', $event)"
    />
  </div>
</template>

<style scoped>
.bottom {
  display: grid;
  gap: 10px;
  margin-top: auto;
  padding-top: 8px;
}

.act {
  justify-content: flex-start;
  text-align: left;
}

select {
  min-height: 30px;
  border: 0;
  border-bottom: 1.5px dotted var(--ink-3);
  background: transparent;
  color: var(--blue);
  font: inherit;
  appearance: auto;
}
</style>
