import { asNumber } from '@/jobs/schema'

export interface Column {
  name: string
  title: string
  kind: 'number' | 'text' | 'choice'
}
export type TableName =
  'materials' | 'drop_heights' | 'stack_factors' | 'atmospheres' | 'digits' | 'shut'
type Row = Record<string, unknown>

/** Each table with a sentence on what it decides, and why it comes as it is. */
export const TABLES: { name: TableName; title: string; text: string }[] = [
  {
    name: 'materials',
    title: 'Melts: temperature and load',
    text: 'Filled in for a material when a sample is received. A product specification has precedence.',
  },
  {
    name: 'drop_heights',
    title: 'Drops: height by gross mass',
    text: 'Drop height for each gross mass. The heights of a client have precedence.',
  },
  {
    name: 'stack_factors',
    title: 'Boxes: safety factors of a stack',
    text: 'Factors for time, humidity and stacking. They are multiplied.',
  },
  {
    name: 'atmospheres',
    title: 'Lab atmospheres',
    text: 'Only atmospheres that differ from the methods: set point, tolerance and min time. A wider tolerance is a deviation from the method.',
  },
  {
    name: 'digits',
    title: 'Digits of reported results',
    text: 'Only where they differ from the method. The digits of a limit decide the comparison.',
  },
  {
    name: 'shut',
    title: 'Closed days',
    text: 'First and last day, such as 2026-12-24. No work is planned on these days. Conditioning goes on.',
  },
]

export const COLUMNS: Record<TableName, Column[]> = {
  materials: [
    { name: 'material', title: 'Material', kind: 'text' },
    { name: 'temperature_c', title: '°C', kind: 'number' },
    { name: 'load_kg', title: 'kg', kind: 'number' },
  ],
  drop_heights: [
    { name: 'up_to_kg', title: 'up to kg', kind: 'number' },
    { name: 'height_mm', title: 'height mm', kind: 'number' },
  ],
  stack_factors: [
    { name: 'name', title: 'Name', kind: 'text' },
    { name: 'factor', title: 'Factor', kind: 'number' },
  ],
  atmospheres: [
    { name: 'atmosphere', title: 'Atmosphere', kind: 'choice' },
    { name: 'temperature_c', title: '°C', kind: 'number' },
    { name: 'temperature_tolerance_c', title: '± °C', kind: 'number' },
    { name: 'humidity_percent', title: '%RH', kind: 'number' },
    { name: 'humidity_tolerance_percent', title: '± %RH', kind: 'number' },
    { name: 'least_minutes', title: 'min time, min', kind: 'number' },
  ],
  digits: [
    { name: 'method', title: 'Method', kind: 'choice' },
    { name: 'property', title: 'Property', kind: 'choice' },
    { name: 'decimals', title: 'decimals', kind: 'number' },
    { name: 'significant', title: 'significant', kind: 'number' },
  ],
  shut: [
    { name: 'since', title: 'from', kind: 'text' },
    { name: 'until', title: 'to', kind: 'text' },
    { name: 'why', title: 'Reason', kind: 'text' },
  ],
}

/** Schools of a method that a new test begins with. */
export const SCHOOLS = [
  {
    name: 'area_rule',
    title: 'Section of a bar',
    text: 'Most standards use the mean of the positions. The specimen breaks at the smallest.',
    values: ['mean', 'minimum'],
  },
  {
    name: 'iso_intervals',
    title: 'Cut intervals of a melt, ISO',
    text: 'The newer table cuts more often, so that strands stay short.',
    values: ['iso-newer', 'iso-older'],
  },
  {
    name: 'failures_counted',
    title: 'Failures of a dart series',
    text: 'The rule was made for the first ten failures. The alternative uses every drop.',
    values: ['first', 'all'],
  },
] as const

/** What can be chosen in a cell; the properties are those of the method of the row. */
export function optionsOf(
  column: Column,
  row: Row,
  choices: Record<string, string[]>,
  properties: Record<string, string[]>,
): string[] {
  if (column.name === 'property') return properties[String(row.method)] ?? []
  return choices[column.name] ?? []
}

/** A row with one cell typed anew; an empty figure is none, an odd one stays what was typed. */
export function changed(row: Row, column: Column, text: string): Row {
  const value = column.kind === 'number' ? (text.trim() ? asNumber(text) : null) : text.trim()
  const own = { ...row, [column.name]: value }
  return column.name === 'method' ? { ...own, property: '' } : own
}

/** A row to begin with: the first of what can be chosen, the rest empty. */
export function newRow(
  columns: Column[],
  choices: Record<string, string[]>,
  properties: Record<string, string[]>,
): Row {
  return columns.reduce<Row>((row, column) => {
    const first = optionsOf(column, row, choices, properties)[0] ?? ''
    return { ...row, [column.name]: column.kind === 'number' ? null : first }
  }, {})
}
