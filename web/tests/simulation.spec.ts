import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import StandInPanel from '@/bench/StandInPanel.vue'
import SimulationField from '@/ui/SimulationField.vue'

const KINDS = [
  {
    code: 'frame',
    title: 'Tensile frame',
    role: 'recorder',
    records: ['force_n'],
    actions: ['prepare'],
    faults: [
      { code: 'none', title: 'works normally' },
      { code: 'jaw-slip', title: 'lets the specimen slip in the jaw' },
    ],
  },
  {
    code: 'pendulum',
    title: 'Pendulum',
    role: 'indicator',
    records: ['energy_j'],
    actions: [],
    faults: [{ code: 'silent', title: 'does not answer' }],
  },
]

function plugins() {
  const queryClient = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  queryClient.setQueryData(['device-kinds'], KINDS)
  return [[VueQueryPlugin, { queryClient }]] as never
}

const shown = (kind: string) =>
  mount(SimulationField, {
    props: { kind, label: 'How the simulated device behaves' },
    global: { plugins: plugins() },
  })

describe('a simulated device', () => {
  it('has the faults of its kind, as the server lists them', () => {
    expect(
      shown('frame')
        .findAll('option')
        .map((option) => option.text()),
    ).toEqual(['works normally', 'lets the specimen slip in the jaw'])
    expect(shown('unheard-of').findAll('option')).toEqual([])
  })

  it('is told the code of the fault that is chosen', async () => {
    const field = shown('frame')
    await field.get('select').setValue('jaw-slip')
    expect(field.emitted('simulate')).toEqual([['jaw-slip']])
  })

  it('that records is told for the next test, one that shows from now on', () => {
    const panel = (kind: string) =>
      mount(StandInPanel, {
        props: {
          station: { name: 'Station 1', kind, pace: 60 } as never,
          shows: [{ name: 'energy_j', title: 'Energy', value: 1.234 }],
        },
        global: { plugins: plugins() },
      }).text()
    expect(panel('frame')).toContain('In the next test the device')
    expect(panel('pendulum')).toContain('From now on the device')
    expect(panel('pendulum')).toContain('energy 1.23')
  })
})
