<script setup lang="ts">
import { t } from '@/ui/words'
import { LineChart, ScatterChart } from 'echarts/charts'
import { DataZoomInsideComponent, GridComponent, MarkAreaComponent } from 'echarts/components'
import { init, use, type EChartsType } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useResizeObserver } from '@vueuse/core'
import { onMounted, onUnmounted, ref, watch } from 'vue'
import { useTheme } from 'vuetify'
import { axisName, peaksOf, traceOption, type Trace } from '@/ui/traceOption'

use([
  LineChart,
  ScatterChart,
  DataZoomInsideComponent,
  GridComponent,
  MarkAreaComponent,
  SVGRenderer,
])

/** Force over extension (or another pair), with what was computed from it drawn on it. */
const props = defineProps<Trace>()
const emit = defineEmits<{ look: [range: [number, number] | null] }>()
const holder = ref<HTMLDivElement | null>(null)
const theme = useTheme()
let chart: EChartsType | null = null

function draw() {
  if (!chart || !holder.value) return
  const styles = getComputedStyle(holder.value)
  const option = traceOption(props, (name) => styles.getPropertyValue(name).trim())
  chart.setOption(option, { notMerge: true })
}

/** The wheel turned: what is looked at now, or all of it. */
function looked() {
  const option = chart?.getOption() as {
    dataZoom?: { startValue?: number; endValue?: number; start?: number; end?: number }[]
  }
  const zoom = option.dataZoom?.[0]
  if (!zoom) return
  const isWhole = (zoom.start ?? 0) <= 0.01 && (zoom.end ?? 100) >= 99.99
  emit('look', isWhole ? null : [Number(zoom.startValue), Number(zoom.endValue)])
}

useResizeObserver(holder, () => {
  chart?.resize()
  draw()
})
onMounted(() => {
  chart = init(holder.value, null, { renderer: 'svg' })
  chart.on('datazoom', looked)
  draw()
})
onUnmounted(() => chart?.dispose())
watch(
  [
    () => props.extension,
    () => props.force,
    () => props.marks,
    () => props.end,
    () => props.under,
    () => props.range === null,
  ],
  draw,
)
watch(
  () => theme.global.name.value,
  () => requestAnimationFrame(draw),
)
</script>

<template>
  <div
    ref="holder"
    class="trace"
    role="img"
    :aria-label="
      t('ui.over-points-drawn', {
        y_unit: axes?.y_unit ?? 'N',
        axes: axisName(axes),
        extension: extension.length,
      })
    "
    :data-points="extension.length"
    :data-peaks="peaksOf(props).length"
  />
</template>

<style scoped>
.trace {
  width: 100%;
  height: 100%;
  min-height: 220px;
}
</style>
