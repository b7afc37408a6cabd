import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import type { Ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'

export type Instrument = Schemas['InstrumentView']
export type Check = Schemas['ReferenceCheckView']

export function useInstruments() {
  return useQuery({
    queryKey: ['instruments'],
    queryFn: () => ask(client.GET('/api/instruments')),
  })
}

export function useSupplies() {
  return useQuery({ queryKey: ['supplies'], queryFn: () => ask(client.GET('/api/consumables')) })
}

export function useInstrumentPages(serial: Ref<string>) {
  const path = () => ({ params: { path: { serial: serial.value } } })
  return {
    checks: useQuery({
      queryKey: ['instrument', serial, 'checks'],
      queryFn: () => ask(client.GET('/api/instruments/{serial}/checks', path())),
    }),
    log: useQuery({
      queryKey: ['instrument', serial, 'log'],
      queryFn: () => ask(client.GET('/api/instruments/{serial}/log', path())),
    }),
    touched: useQuery({
      queryKey: ['instrument', serial, 'touched'],
      queryFn: () => ask(client.GET('/api/instruments/{serial}/affected', path())),
    }),
  }
}

/** How an instrument stands, in a word. */
export const STATUS: Record<Instrument['status'], string> = {
  good: t('instruments.in-order'),
  watch: 'watched',
  overdue: 'due',
  out: 'out',
  retired: 'retired',
}

/** The readings of a check as places in a drawing: across by order, up by how far off they are. */
export function chartOf(check: Check, wide: number, high: number) {
  const reach = Math.max(
    1.25 * check.limit,
    ...check.readings.map((reading) => Math.abs(reading.value - check.target)),
  )
  const y = (off: number) => high / 2 - (off / reach) * (high / 2 - 8)
  const step = wide / Math.max(check.readings.length + 1, 12)
  return {
    limit: [y(check.limit), y(-check.limit)] as const,
    warn: [y(check.warn), y(-check.warn)] as const,
    points: check.readings.map((reading, place) => ({
      x: step * (place + 1),
      y: y(reading.value - check.target),
      verdict: reading.verdict,
      text: `${reading.value} ${check.unit}: ${reading.text}`,
    })),
  }
}
