<script setup lang="ts">
import { t } from '@/ui/words'
import { ref } from 'vue'
import type { BenchView } from '@/bench/bench'
import type { Recorded } from '@/bench/procedures/recorded'
import StandInPanel from '@/bench/StandInPanel.vue'
import FileButton from '@/ui/FileButton.vue'

/** Quiet things below the next action: where the data is from, files, the stand-in. */
defineProps<{ view: BenchView; recorded: Recorded; jobId: number; filed: boolean }>()
const emit = defineEmits<{ file: [file: File]; simulate: [fault: string]; station: [id: number] }>()
const files = ref<{ open(): void } | null>(null)
defineExpose({ open: () => files.value?.open() })
</script>

<template>
  <div class="bottom">
    <template v-if="recorded.shown.value">
      <p v-if="recorded.shown.value.source_name" class="small quiet">
        {{
          t('bench.from', {
            source_name: recorded.shown.value.source_name,
            said: recorded.shown.value.said.join('; '),
          })
        }}
      </p>
      <p class="small quiet">
        <template v-if="recorded.shown.value.samples">
          {{ t('bench.samples', { samples: recorded.shown.value.samples }) }} </template>{{
          recorded.shown.value.end_reason
        }}.
        <a
          v-if="recorded.shown.value.samples"
          :href="`/api/runs/${recorded.shown.value.id}/trace.csv`"
          >{{ t('bench.raw-data') }}</a
        >
      </p>
    </template>
    <FileButton
      v-if="filed"
      ref="files"
      :label="t('bench.trace-as-csv')"
      accept=".csv,.txt,.xlsx"
      @chosen="emit('file', $event[0]!)"
    >
      {{ t('bench.import-trace-from-csv') }} <kbd>I</kbd>
    </FileButton>
    <p class="small">
      <router-link :to="`/readings/${jobId}`">{{
        t('bench.enter-or-import-readings')
      }}</router-link>
    </p>
    <v-select
      v-if="view.stations.length > 1 && view.phase === 'before'"
      :model-value="view.station?.id"
      density="compact"
      :label="t('bench.station')"
      :items="view.stations"
      item-value="id"
      item-title="name"
      @update:model-value="$emit('station', $event)"
    />
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
</style>
