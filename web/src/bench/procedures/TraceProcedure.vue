<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import BigFigures from '@/bench/procedures/BigFigures.vue'
import { useFigures, type ProcedureProps } from '@/bench/procedures/figures'
import RecordedChart from '@/bench/procedures/RecordedChart.vue'
import SealWindow from '@/bench/procedures/SealWindow.vue'
import PathDrawing from '@/ui/PathDrawing.vue'

/** A pull or a push: force and travel, large, and the curve; before a sequence, its way. */
const props = defineProps<ProcedureProps>()
defineEmits<{ working: [] }>()
const {
  upper: force,
  lower: travel,
  figure,
  unitOr,
  opens,
  titles,
  device,
} = useFigures(props, 'force_n', 'extension_mm')
const unit = computed(() => props.view.drawing?.y.unit ?? 'N')
const isBefore = computed(
  () => props.view.phase === 'before' && !props.recorded.x.value.length && props.view.path,
)
</script>

<template>
  <BigFigures
    :first="{
      value: force,
      unit: unitOr(unit),
      digits: recorded.shown.value ? 2 : 1,
      text: figure,
      title: titles.upper,
    }"
    :second="{ value: travel, unit: 'mm', digits: 1, title: titles.lower }"
    :device="device && { ...device, unit }"
    :opens="opens"
    :set-up="view.set_up"
    @open="$emit('working')"
  />
  <section v-if="isBefore && view.path" class="path">
    <h2>{{ view.path.title || t('bench.planned-movement') }}</h2>
    <PathDrawing :points="view.path.points" />
    <ol class="mono small">
      <li v-for="(move, place) in view.path.moves" :key="place">{{ move }}</li>
    </ol>
  </section>
  <RecordedChart v-else :view="view" :recorded="recorded" />
  <SealWindow v-if="view.seal_window" :window="view.seal_window" />
</template>

<style scoped>
.path {
  display: grid;
  gap: 8px;
  align-content: start;
  padding: 14px 0;
}

ol {
  margin: 0;
  padding-left: 26px;
  color: var(--ink-2);
}
</style>
