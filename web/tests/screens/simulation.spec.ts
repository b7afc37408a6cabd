import type { VueWrapper } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { VSelect } from 'vuetify/components/VSelect'
import StandInPanel from '@/bench/StandInPanel.vue'
import SimulationField from '@/ui/SimulationField.vue'
import { mountInKit } from './kit'

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

const answers = { 'device-kinds': KINDS }
const shown = (kind: string) =>
  mountInKit(SimulationField, { kind, label: 'How the simulated device behaves' }, { answers })
const select = (page: VueWrapper) => page.findComponent(VSelect)

describe('a simulated device', () => {
  it('has the faults of its kind, as the server lists them', () => {
    expect(select(shown('frame')).props('items')).toEqual(KINDS[0]!.faults)
    expect(select(shown('unheard-of')).props('items')).toEqual([])
    expect(shown('frame').text()).toContain('works normally')
  })

  it('is given the code of the fault that is chosen, and shows it', async () => {
    const field = shown('frame')
    select(field).vm.$emit('update:modelValue', 'jaw-slip')
    await field.vm.$nextTick()
    expect(field.emitted('simulate')).toEqual([['jaw-slip']])
    expect(field.text()).toContain('lets the specimen slip in the jaw')
  })

  it('that records takes it for the next test, one that shows from now on', () => {
    const panel = (kind: string) =>
      mountInKit(
        StandInPanel,
        {
          station: { name: 'Station 1', kind, pace: 60 },
          shows: [{ name: 'energy_j', title: 'Energy', value: 1.234 }],
        },
        { answers },
      ).text()
    expect(panel('frame')).toContain('Behaviour in the next test')
    expect(panel('pendulum')).toContain('Behaviour from now on')
    expect(panel('pendulum')).toContain('energy 1.23')
  })
})
