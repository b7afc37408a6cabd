import { describe, expect, it } from 'vitest'
import { axisName, peaksOf, traceOption, type Trace } from '@/ui/traceOption'

const style = (name: string) => name
const mark = (kind: string, points: [number, number][], names: string[] = [], text = '') => ({
  kind,
  points,
  names,
  text,
})
const trace: Trace = { extension: [0, 1, 2], force: [0, 10, 4] }
const series = (changes: Partial<Trace>) => traceOption({ ...trace, ...changes }, style).series

describe('the drawing of a trace', () => {
  it('is the curve in ink over its axes', () => {
    const option = traceOption(trace, style)
    expect(option.series).toHaveLength(1)
    expect(option.series[0]).toMatchObject({
      data: [
        [0, 0],
        [1, 10],
        [2, 4],
      ],
      lineStyle: { color: '--ink' },
    })
    expect([option.xAxis.name, option.yAxis.name]).toEqual(['extension, mm', 'N'])
    expect(option.dataZoom).toEqual([])
    expect(axisName({ x_title: 'time', x_unit: '', y_unit: 'kPa' })).toBe('time')
  })

  it('has an axis for a curve that did not begin', () => {
    const { max } = traceOption(trace, style).yAxis
    expect([max({ max: 0 }), max({ max: 12 })]).toEqual([30, undefined])
  })

  it('stands over earlier curves, the faint ones fainter', () => {
    const under = [
      { x: [0], y: [1] },
      { x: [0], y: [2], faint: true },
    ]
    const colours = series({ under }).map((each) => (each as { lineStyle?: object }).lineStyle)
    expect(colours.slice(1)).toMatchObject([{ color: '--ink-3' }, { color: '--hair' }])
  })

  it('names the points that were computed, and rings what looks odd', () => {
    const marks = [
      mark('points', [[1, 10]], ['peak 1']),
      mark('suspect', [[2, 4]]),
      mark('line', [
        [0, 0],
        [2, 8],
      ]),
      mark('end', [[2, 4]]),
    ]
    expect(peaksOf({ ...trace, marks })).toEqual([{ value: [1, 10], name: 'peak 1' }])
    const [, end, line, peaks, ring] = series({ marks })
    expect(end).toMatchObject({
      data: [
        [2, 0],
        [2, 10],
      ],
      lineStyle: { color: '--brick' },
    })
    expect(line).toMatchObject({ lineStyle: { color: '--blue' } })
    expect(peaks).toMatchObject({ type: 'scatter', label: { formatter: '{b}' } })
    expect(ring).toMatchObject({ data: [[2, 4]], itemStyle: { borderColor: '--brick' } })
  })

  it('shades the parts of the trace, the first one left open', () => {
    const bands = mark(
      'bands',
      [
        [0, 0],
        [1, 0],
        [2, 0],
      ],
      ['approach', 'counted'],
    )
    const [curve] = series({ marks: [bands] })
    const { data } = (
      curve as { markArea: { data: { name?: string; itemStyle?: { color: string } }[][] } }
    ).markArea
    expect(data.map(([start]) => [start!.name, start!.itemStyle!.color])).toEqual([
      ['approach', 'transparent'],
      ['counted', '--sunk'],
    ])
    const area = mark(
      'area',
      [
        [0, 0],
        [1, 0],
      ],
      [],
      'energy',
    )
    const [shaded] = series({ marks: [area] })
    expect(
      (shaded as { markArea: { data: { name?: string }[][] } }).markArea.data[0]![0]!.name,
    ).toBe('energy')
  })

  it('has a dot where it is while it is recorded, and can be looked at in part', () => {
    expect(series({ live: true }).at(-1)).toMatchObject({ data: [[2, 4]], symbolSize: 11 })
    expect(series({ live: true, extension: [], force: [] })).toHaveLength(1)
    expect(traceOption({ ...trace, range: [1, 2] }, style).dataZoom).toMatchObject([
      { startValue: 1, endValue: 2 },
    ])
    expect(traceOption({ ...trace, range: null }, style).dataZoom).toHaveLength(1)
  })
})
