import type { LineSeriesOption, ScatterSeriesOption } from 'echarts/charts'
import type { Mark } from '@/ui/mark'

export interface Axes {
  x_title: string
  x_unit: string
  y_unit: string
}

/** A curve and what was computed from it, as the chart is given it. */
export interface Trace {
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
}

/** The value of a style variable of the theme, such as `--ink`. */
type Style = (name: string) => string

const ofKind = (trace: Trace, kind: string) =>
  (trace.marks ?? []).filter((mark) => mark.kind === kind)

/** The points that were computed, each with its name. */
export function peaksOf(trace: Trace) {
  return ofKind(trace, 'points').flatMap((mark) =>
    mark.points.map((value, place) => ({ value, name: mark.names[place] })),
  )
}

/** "extension, mm". */
export function axisName(axes?: Axes): string {
  const { x_title = 'extension', x_unit = 'mm' } = axes ?? {}
  return x_unit ? `${x_title}, ${x_unit}` : x_title
}

const QUIET = { animation: false, silent: true } as const
const line = (
  data: number[][],
  z: number,
  lineStyle: LineSeriesOption['lineStyle'],
): LineSeriesOption => ({ type: 'line', data, showSymbol: false, lineStyle, z, ...QUIET })

/** The bands and areas that are shaded behind the curve, named at the top. */
function areas(trace: Trace, style: Style) {
  const label = {
    show: true,
    position: 'insideTop' as const,
    distance: -18,
    color: style('--ink-2'),
    fontSize: 13,
    fontFamily: style('--text'),
  }
  const face = (color: string) => ({ color, borderColor: style('--ink-3'), borderWidth: 0.7 })
  const [bands] = ofKind(trace, 'bands')
  if (!bands)
    return ofKind(trace, 'area').map(({ text, points }) => [
      { name: text, xAxis: points[0]![0], label, itemStyle: face(style('--sunk')) },
      { xAxis: points[1]![0] },
    ])
  return bands.names.map((name, place) => [
    {
      name,
      xAxis: bands.points[place]![0],
      label,
      itemStyle: face(place === 0 ? 'transparent' : style('--sunk')),
    },
    { xAxis: bands.points[place + 1]![0] },
  ])
}

function lineSeries(trace: Trace, points: number[][], style: Style): LineSeriesOption[] {
  const shaded = areas(trace, style)
  const highest = Math.max(...trace.force)
  return [
    {
      ...line(points, 3, { color: style('--ink'), width: 1.3, join: 'round' }),
      markArea: shaded.length ? { silent: true, data: shaded as never } : undefined,
    },
    ...(trace.under ?? []).map((curve) =>
      line(
        curve.x.map((x, place) => [x, curve.y[place]!]),
        2,
        { color: style(curve.faint ? '--hair' : '--ink-3'), width: 1.3 },
      ),
    ),
    ...ofKind(trace, 'end').map((mark) => {
      const at = mark.points[0]![0]
      const ends = [
        [at, 0],
        [at, highest],
      ]
      return line(ends, 4, { color: style('--brick'), width: 1.5 })
    }),
    ...ofKind(trace, 'line').map((mark) =>
      line(mark.points, 5, { color: style('--blue'), width: 2, type: [7, 5] }),
    ),
  ]
}

function pointSeries(trace: Trace, points: number[][], style: Style): ScatterSeriesOption[] {
  const scatter = (
    data: ScatterSeriesOption['data'],
    symbolSize: number,
    z: number,
    itemStyle: ScatterSeriesOption['itemStyle'],
  ): ScatterSeriesOption => ({ type: 'scatter', data, symbolSize, z, itemStyle, ...QUIET })
  const ring = { color: 'transparent', borderColor: style('--brick'), borderWidth: 2.5 }
  const series = [
    {
      ...scatter(peaksOf(trace), 7, 6, {
        color: style('--page'),
        borderColor: style('--blue'),
        borderWidth: 1.6,
      }),
      label: {
        show: true,
        position: 'left' as const,
        distance: 18,
        formatter: '{b}',
        color: style('--ink-2'),
        fontSize: 13,
        fontFamily: style('--text'),
      },
    },
    scatter(
      ofKind(trace, 'suspect').flatMap((mark) => mark.points),
      26,
      8,
      ring,
    ),
    scatter(trace.live ? points.slice(-1) : [], 11, 7, { color: style('--brick') }),
  ]
  return series.filter((each) => (each.data as unknown[]).length)
}

/** What ECharts draws of a trace: the curve in ink, what was computed in blue, what is wrong in red. */
export function traceOption(trace: Trace, style: Style) {
  const points = trace.extension.map((x, place) => [x, trace.force[place]!])
  const text = { color: style('--ink-2'), fontFamily: style('--mono'), fontSize: 14 }
  const axis = {
    type: 'value' as const,
    min: 0,
    splitLine: { show: false },
    axisLine: { show: true, onZero: true, lineStyle: { color: style('--ink'), width: 1.5 } },
    axisTick: { show: true, lineStyle: { color: style('--ink') } },
    axisLabel: { ...text, hideOverlap: true },
    nameTextStyle: text,
  }
  const shown = trace.range && { startValue: trace.range[0], endValue: trace.range[1] }
  return {
    animation: false,
    grid: { left: 44, right: 18, top: 26, bottom: 40 },
    xAxis: {
      ...axis,
      max: trace.end,
      name: axisName(trace.axes),
      nameLocation: 'middle' as const,
      nameGap: 26,
    },
    yAxis: {
      ...axis,
      max: (seen: { max: number }) => (seen.max > 0 ? undefined : 30),
      name: trace.axes?.y_unit ?? 'N',
      nameGap: 10,
      nameTextStyle: { ...text, align: 'right' as const },
    },
    dataZoom:
      trace.range === undefined
        ? []
        : [{ type: 'inside' as const, filterMode: 'none' as const, ...shown }],
    series: [...lineSeries(trace, points, style), ...pointSeries(trace, points, style)],
  }
}
