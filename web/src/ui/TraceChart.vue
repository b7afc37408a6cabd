<script setup lang="ts">
import type { Mark } from '@/ui/mark'
import { LineChart, ScatterChart, type LineSeriesOption } from 'echarts/charts'
import { DataZoomInsideComponent, GridComponent, MarkAreaComponent } from 'echarts/components'
import { init, use, type EChartsType } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import { useTheme } from 'vuetify'

use([
  LineChart,
  ScatterChart,
  DataZoomInsideComponent,
  GridComponent,
  MarkAreaComponent,
  SVGRenderer,
])

export interface Axes {
  x_title: string
  x_unit: string
  y_unit: string
}

/** Force over extension (or another pair), with what was computed from it drawn on it. */
const props = defineProps<{
  extension: number[]
  force: number[]
  end?: number
  axes?: Axes
  /** Curves of the same kind, quieter than this one. */
  under?: { x: number[]; y: number[]; faint?: boolean }[]
  marks?: Mark[]
  live?: boolean
  /** The part of the first axis that is looked at; turned to by the wheel where it is given. */
  range?: [number, number] | null
}>()
const emit = defineEmits<{ look: [range: [number, number] | null] }>()
const holder = ref<HTMLDivElement | null>(null)
const theme = useTheme()
let chart: EChartsType | null = null
let sizes: ResizeObserver | null = null

const points = computed(() => props.extension.map((x, place) => [x, props.force[place]!]))
const bands = computed(() => props.marks?.find((mark) => mark.kind === 'bands'))
const peaks = computed(() =>
  (props.marks ?? [])
    .filter((mark) => mark.kind === 'points')
    .flatMap((mark) => mark.points.map((value, place) => ({ value, name: mark.names[place] }))),
)
/** What looks odd is ringed; the ring says nothing but where to look. */
const suspects = computed(() =>
  (props.marks ?? []).filter((mark) => mark.kind === 'suspect').flatMap((mark) => mark.points),
)
const lines = computed(() => (props.marks ?? []).filter((mark) => mark.kind === 'line'))
const shaded = computed(() => (props.marks ?? []).filter((mark) => mark.kind === 'area'))
const xName = computed(() => {
  const { x_title = 'extension', x_unit = 'mm' } = props.axes ?? {}
  return x_unit ? `${x_title}, ${x_unit}` : x_title
})

function colour(name: string): string {
  return getComputedStyle(holder.value!).getPropertyValue(name).trim()
}

function draw() {
  if (!chart || !holder.value) return
  const ink = colour('--ink')
  const ink2 = colour('--ink-2')
  const blue = colour('--blue')
  const mono = colour('--mono')
  const axis = {
    type: 'value' as const,
    min: 0,
    splitLine: { show: false },
    axisLine: { show: true, onZero: true, lineStyle: { color: ink, width: 1.5 } },
    axisTick: { show: true, lineStyle: { color: ink } },
    axisLabel: { color: ink2, fontFamily: mono, fontSize: 14, hideOverlap: true },
    nameTextStyle: { color: ink2, fontFamily: mono, fontSize: 14 },
  }
  const series: LineSeriesOption[] = [
    {
      type: 'line',
      data: points.value,
      showSymbol: false,
      lineStyle: { color: ink, width: 1.3, join: 'round' },
      animation: false,
      silent: true,
      z: 3,
      markArea: bands.value || shaded.value.length ? { silent: true, data: areas() } : undefined,
    },
  ]
  for (const curve of props.under ?? [])
    series.push({
      type: 'line',
      data: curve.x.map((x, place) => [x, curve.y[place]!]),
      showSymbol: false,
      lineStyle: {
        color: colour(curve.faint ? '--hair' : '--ink-3'),
        width: 1.3,
      },
      animation: false,
      silent: true,
      z: 2,
    })
  for (const mark of props.marks?.filter((mark) => mark.kind === 'end') ?? [])
    series.push({
      type: 'line',
      data: [
        [mark.points[0]![0], 0],
        [mark.points[0]![0], Math.max(...props.force)],
      ],
      showSymbol: false,
      lineStyle: { color: colour('--brick'), width: 1.5 },
      animation: false,
      silent: true,
      z: 4,
    })
  for (const line of lines.value)
    series.push({
      type: 'line',
      data: line.points,
      showSymbol: false,
      lineStyle: { color: blue, width: 2, type: [7, 5] },
      animation: false,
      silent: true,
      z: 5,
    })
  chart.setOption(
    {
      animation: false,
      grid: { left: 44, right: 18, top: 26, bottom: 40 },
      xAxis: {
        ...axis,
        max: props.end,
        name: xName.value,
        nameLocation: 'middle',
        nameGap: 26,
      },
      yAxis: {
        ...axis,
        max: (seen: { max: number }) => (seen.max > 0 ? undefined : 30),
        name: props.axes?.y_unit ?? 'N',
        nameGap: 10,
        nameTextStyle: { ...axis.nameTextStyle, align: 'right' },
      },
      dataZoom:
        props.range === undefined
          ? []
          : [
              {
                type: 'inside' as const,
                filterMode: 'none' as const,
                ...(props.range && { startValue: props.range[0], endValue: props.range[1] }),
              },
            ],
      series: [
        ...series,
        ...(peaks.value.length
          ? [
              {
                type: 'scatter' as const,
                data: peaks.value,
                symbolSize: 7,
                label: {
                  show: true,
                  position: 'left' as const,
                  distance: 18,
                  formatter: '{b}',
                  color: ink2,
                  fontSize: 13,
                  fontFamily: colour('--text'),
                },
                itemStyle: { color: colour('--page'), borderColor: blue, borderWidth: 1.6 },
                animation: false,
                silent: true,
                z: 6,
              },
            ]
          : []),
        ...(suspects.value.length
          ? [
              {
                type: 'scatter' as const,
                data: suspects.value,
                symbolSize: 26,
                itemStyle: {
                  color: 'transparent',
                  borderColor: colour('--brick'),
                  borderWidth: 2.5,
                },
                animation: false,
                silent: true,
                z: 8,
              },
            ]
          : []),
        ...(props.live && points.value.length
          ? [
              {
                type: 'scatter' as const,
                data: [points.value[points.value.length - 1]!],
                symbolSize: 11,
                itemStyle: { color: colour('--brick') },
                animation: false,
                silent: true,
                z: 7,
              },
            ]
          : []),
      ],
    },
    { notMerge: true },
  )
}

function areas() {
  const mark = bands.value
  const label = {
    show: true,
    position: 'insideTop' as const,
    distance: -18,
    color: colour('--ink-2'),
    fontSize: 13,
    fontFamily: colour('--text'),
  }
  const plain = shaded.value.map((area) => [
    {
      name: area.says,
      xAxis: area.points[0]![0],
      label,
      itemStyle: { color: colour('--sunk'), borderColor: colour('--ink-3'), borderWidth: 0.7 },
    },
    { xAxis: area.points[1]![0] },
  ])
  if (!mark) return plain as never
  return mark.names.map((name, place) => [
    {
      name,
      xAxis: mark.points[place]![0],
      label,
      itemStyle: {
        color: place === 0 ? 'transparent' : colour('--sunk'),
        borderColor: colour('--ink-3'),
        borderWidth: 0.7,
      },
    },
    { xAxis: mark.points[place + 1]![0] },
  ]) as never
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

onMounted(() => {
  chart = init(holder.value, null, { renderer: 'svg' })
  chart.on('datazoom', looked)
  sizes = new ResizeObserver(() => {
    chart?.resize()
    draw()
  })
  sizes.observe(holder.value!)
  draw()
})
onUnmounted(() => {
  sizes?.disconnect()
  chart?.dispose()
})
watch(
  [points, () => props.marks, () => props.end, () => props.under, () => props.range === null],
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
    :aria-label="`${axes?.y_unit ?? 'N'} over ${xName}, ${extension.length} points drawn`"
    :data-points="extension.length"
    :data-peaks="peaks.length"
  />
</template>

<style scoped>
.trace {
  width: 100%;
  height: 100%;
  min-height: 220px;
}
</style>
