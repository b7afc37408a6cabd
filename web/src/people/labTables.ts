import { t } from '@/ui/words'
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
    title: t('people.melts-temperature-and-load'),
    text: t('people.filled-in-for-a-material-when-a-sample'),
  },
  {
    name: 'drop_heights',
    title: t('people.drops-height-by-gross-mass'),
    text: t('people.drop-height-for-each-gross-mass-the'),
  },
  {
    name: 'stack_factors',
    title: t('people.boxes-safety-factors-of-a-stack'),
    text: t('people.factors-for-time-humidity-and-stacking'),
  },
  {
    name: 'atmospheres',
    title: t('people.lab-atmospheres'),
    text: t('people.only-atmospheres-that-differ-from-the'),
  },
  {
    name: 'digits',
    title: t('people.digits-of-reported-results'),
    text: t('people.only-where-they-differ-from-the-method'),
  },
  {
    name: 'shut',
    title: t('people.closed-days'),
    text: t('people.first-and-last-day-such-as-2026-12-24'),
  },
]

export const COLUMNS: Record<TableName, Column[]> = {
  materials: [
    { name: 'material', title: t('people.material'), kind: 'text' },
    { name: 'temperature_c', title: '°C', kind: 'number' },
    { name: 'load_kg', title: 'kg', kind: 'number' },
  ],
  drop_heights: [
    { name: 'up_to_kg', title: t('people.up-to-kg'), kind: 'number' },
    { name: 'height_mm', title: t('people.height-mm'), kind: 'number' },
  ],
  stack_factors: [
    { name: 'name', title: t('people.name'), kind: 'text' },
    { name: 'factor', title: t('people.factor'), kind: 'number' },
  ],
  atmospheres: [
    { name: 'atmosphere', title: t('people.atmosphere'), kind: 'choice' },
    { name: 'temperature_c', title: '°C', kind: 'number' },
    { name: 'temperature_tolerance_c', title: '± °C', kind: 'number' },
    { name: 'humidity_percent', title: '%RH', kind: 'number' },
    { name: 'humidity_tolerance_percent', title: '± %RH', kind: 'number' },
    { name: 'least_minutes', title: t('people.min-time-min'), kind: 'number' },
  ],
  digits: [
    { name: 'method', title: t('people.method'), kind: 'choice' },
    { name: 'property', title: t('people.property'), kind: 'choice' },
    { name: 'decimals', title: 'decimals', kind: 'number' },
    { name: 'significant', title: 'significant', kind: 'number' },
  ],
  shut: [
    { name: 'since', title: 'from', kind: 'text' },
    { name: 'until', title: 'to', kind: 'text' },
    { name: 'why', title: t('people.reason'), kind: 'text' },
  ],
}

/** Schools of a method that a new test begins with. */
export const SCHOOLS = [
  {
    name: 'area_rule',
    title: t('people.section-of-a-bar'),
    text: t('people.most-standards-use-the-mean-of-the'),
    values: ['mean', 'minimum'],
  },
  {
    name: 'iso_intervals',
    title: t('people.cut-intervals-of-a-melt-iso'),
    text: t('people.the-newer-table-cuts-more-often-so-that'),
    values: ['iso-newer', 'iso-older'],
  },
  {
    name: 'failures_counted',
    title: t('people.failures-of-a-dart-series'),
    text: t('people.the-rule-was-made-for-the-first-ten'),
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
