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
export const TABLES: { name: TableName; title: string; says: string }[] = [
  {
    name: 'materials',
    title: 'Melts: temperature and load',
    says: 'What the counter fills in for a material. It comes with the usual pairs; a specification goes before them.',
  },
  {
    name: 'drop_heights',
    title: 'Drops: height by gross mass',
    says: 'Lighter packs are thrown, heavier ones are set down. It comes with four steps that are common; a client’s own go before them.',
  },
  {
    name: 'stack_factors',
    title: 'Boxes: safety factors of a stack',
    says: 'Time, humidity and the way of stacking take strength away; they are multiplied. It comes with the usual figures.',
  },
  {
    name: 'atmospheres',
    title: 'Atmospheres of this house',
    says: 'Only those that differ from what the methods ask for: set point, tolerance and least stay. Tighter is a school of its own, looser a deviation from the method.',
  },
  {
    name: 'digits',
    title: 'Digits that a property is reported to',
    says: 'Only where they are not those of the method. The digits of a limit still decide how it is compared.',
  },
  {
    name: 'shut',
    title: 'Days on which the house is shut',
    says: 'From the first to the last, as 2026-12-24. Nobody is planned with on them; what hangs goes on.',
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
    { name: 'least_minutes', title: 'least min', kind: 'number' },
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
    { name: 'why', title: 'Why', kind: 'text' },
  ],
}

/** Schools of a method that a new test begins with. */
export const SCHOOLS = [
  {
    name: 'area_rule',
    title: 'Section of a bar',
    says: 'The mean of the places is what most standards ask for; the smallest is where it breaks.',
    values: ['mean', 'minimum'],
  },
  {
    name: 'iso_intervals',
    title: 'Cut intervals of a melt, ISO',
    says: 'The newer table cuts more often, so that a strand stays short.',
    values: ['iso-newer', 'iso-older'],
  },
  {
    name: 'failures_counted',
    title: 'Failures of a dart series',
    says: 'The first ten are what the rule was made for; all of them use every drop.',
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
