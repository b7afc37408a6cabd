<script setup lang="ts">
import { computed } from 'vue'
import BigFigures from '@/bench/pictures/BigFigures.vue'
import { useFigures, type PictureProps } from '@/bench/pictures/figures'
import RecordedChart from '@/bench/pictures/RecordedChart.vue'

/** A pull or a push: force and travel, large, and the curve. */
const props = defineProps<PictureProps>()
defineEmits<{ working: [] }>()
const { upper: force, lower: travel, opens } = useFigures(props, 'force_n', 'extension_mm')
const unit = computed(() => props.view.drawing?.y.unit ?? 'N')
</script>

<template>
  <BigFigures
    :first="{ value: force, unit, digits: recorded.shown.value ? 2 : 1 }"
    :second="{ value: travel, unit: 'mm', digits: 1 }"
    :opens="opens"
    :set-up="view.set_up"
    @open="$emit('working')"
  />
  <RecordedChart
    :view="view"
    :x="recorded.x.value"
    :y="recorded.y.value"
    :marks="recorded.marks.value"
    :live="recorded.isLive.value"
    :trouble="recorded.trouble.value"
  />
</template>
