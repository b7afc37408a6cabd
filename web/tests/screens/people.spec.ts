import { describe, expect, it } from 'vitest'
import LabSettingsPane from '@/people/LabSettingsPane.vue'
import PeoplePage from '@/people/PeoplePage.vue'
import { signedIn } from './desk'
import { mountInKit } from './kit'
import {
  button,
  changes,
  choose,
  fill,
  press,
  Refused,
  serve,
  settled,
  shown,
  submit,
  part,
} from '../serve'

const PERSON = {
  id: 1,
  login: 'ines',
  name: 'Ines',
  role: 'technician',
  active: true,
  supervisor_id: null,
  supervisor: '',
  hours: null,
  away: [],
  authorised: [],
}
const OTHER = {
  ...PERSON,
  id: 2,
  login: 'pelle',
  name: 'Pelle',
  role: 'trainee',
  supervisor_id: 1,
  supervisor: 'Ines',
  authorised: [
    {
      id: 9,
      method: 'iso-180',
      since: '2026-01-02T08:00:00Z',
      by: 'Maren',
      until: null,
      holds: true,
    },
  ],
}
const GONE = { ...PERSON, id: 3, name: 'Olga', active: false }

async function opened(answers: object = {}, ...may: string[]) {
  await signedIn(...may)
  const sent = serve({
    'GET /api/people': [PERSON, OTHER, GONE],
    'GET /api/methods': [{ id: 'iso-180', title: 'Izod impact' }],
    ...answers,
  })
  const page = mountInKit(PeoplePage)
  await settled()
  return { sent, page }
}

describe('the people of a laboratory', () => {
  it('open with oneself, and let nobody else be changed without the right', async () => {
    await opened()
    expect(document.querySelector('.pane h2')!.textContent).toBe('Ines')
    expect(shown()).toContain('Your password')
    await press('Pelle')
    expect(document.querySelector('.pane h2')!.textContent).toBe('Pelle')
    expect(shown()).toContain('supervisor Ines')
    for (const act of [
      'Save changes',
      'Add person',
      'Set password',
      'Authorise',
      'end authorisation',
    ])
      expect(() => button(act), act).toThrow()
  })

  it('are added with login and role', async () => {
    const { sent, page } = await opened({ 'POST /api/people': {} }, 'manage-people')
    await press('Add person')
    await fill('Name', 'Ruben')
    await fill('Login', 'ruben')
    await choose(page, 'Role', 'reviewer')
    await fill('Password, at least 10 characters', 'long enough')
    await submit('form.pane')
    expect(changes(sent).map((each) => each.body)).toEqual([
      { login: 'ruben', name: 'Ruben', role: 'reviewer', password: 'long enough' },
    ])
    expect(document.querySelector('.pane h2')!.textContent).toBe('Ines')
  })

  it('that are refused stay in their form', async () => {
    await opened({ 'POST /api/people': new Refused('The login ines is taken.') }, 'manage-people')
    await press('Add person')
    await fill('Name', 'Ines')
    await fill('Login', 'ines')
    await submit('form.pane')
    expect(shown()).toContain('The login ines is taken.')
    expect(document.querySelector('.pane h2')!.textContent).toBe('Add person')
  })

  it('keep a supervisor only while they are trainees', async () => {
    const { sent, page } = await opened({ 'PUT /api/people/2': {} }, 'manage-people')
    await press('Pelle')
    await submit('.pane form')
    await choose(page, 'Role', 'technician')
    await submit('.pane form')
    expect(
      changes(sent).map((each) => (each.body as { supervisor_id: unknown }).supervisor_id),
    ).toEqual([1, null])
  })

  it('are deactivated and come back', async () => {
    const { sent } = await opened(
      { 'PUT /api/people/1': {}, 'PUT /api/people/3': {} },
      'manage-people',
    )
    await press('Deactivate')
    await press('Olga')
    await press('Reactivate')
    expect(changes(sent).map((each) => (each.body as { active: boolean }).active)).toEqual([
      false,
      true,
    ])
  })

  it('are authorised for a method until the end of a day', async () => {
    const { sent, page } = await opened(
      { 'POST /api/people/2/authorisations': {}, 'POST /api/authorisations/9/withdraw': {} },
      'equip',
    )
    await press('Pelle')
    expect(shown()).toContain('iso-180')
    expect(button('Authorise').disabled).toBe(true)
    await choose(page, 'Method', 'iso-180')
    await fill('Until (optional)', '2027-03-01')
    await submit('form.grant')
    await press('end authorisation')
    expect(changes(sent)).toMatchObject([
      {
        to: 'POST /api/people/2/authorisations',
        body: { method: 'iso-180', until: new Date('2027-03-01T23:59').toISOString() },
      },
      { to: 'POST /api/authorisations/9/withdraw' },
    ])
  })

  it('have hours of their own, or those of the laboratory', async () => {
    const { sent, page } = await opened({ 'PUT /api/people/1/hours': {} }, 'manage-people')
    const hours = () => submit('form:has(h3)')
    await hours()
    part(page, 'VCheckbox', 'Own working hours').vm.$emit('update:modelValue', true)
    await settled()
    await fill('From', '07:00')
    await fill('Away from', '2026-12-24')
    await hours()
    expect(changes(sent).map((each) => each.body)).toEqual([
      { hours: null, away: [] },
      {
        hours: { days: [0, 1, 2, 3, 4], start: '07:00', end: '16:30' },
        away: [{ since: '2026-12-24', until: '2026-12-24', why: 'away' }],
      },
    ])
  })

  it('change their own password with the old one', async () => {
    const { sent } = await opened({ 'PUT /api/people/1/password': {} })
    await fill('Current password', 'bench-demo')
    await fill('New password (min. 10)', 'another one')
    await submit('form:has([type="password"])')
    expect(changes(sent)).toMatchObject([
      { body: { password: 'another one', old_password: 'bench-demo' } },
    ])
    expect(shown()).toContain('Password changed.')
  })
})

describe('lab settings', () => {
  const HOUSE = {
    name: 'Harbour Lab',
    address: 'Quay 1',
    revision: 4,
    rules: [
      {
        name: 'rounding',
        value: 'half-even',
        schools: [
          { value: 'half-even', text: 'to the even digit' },
          { value: 'half-up', text: 'away from zero' },
        ],
      },
    ],
    tables: {
      materials: [],
      drop_heights: [],
      stack_factors: [],
      atmospheres: [],
      digits: [],
      shut: [],
      hours: { days: [0, 1, 2, 3, 4], start: '08:00', end: '16:30' },
    },
    atmospheres: [],
    properties: {},
    proposed: null,
    changes: [{ at: '2026-11-02T08:00:00Z', who: 'Maren', text: 'Maren changed the address' }],
  }
  const PROPOSED = {
    text: 'rounding from half-even to half-up',
    by: 'Maren',
    by_id: 2,
    at: '2026-11-03T08:00:00Z',
    reason: 'client contract',
  }

  async function settings(house: object, answers: object, mayChange: boolean, ...may: string[]) {
    await signedIn(...may)
    const sent = serve({ 'GET /api/lab-settings': house, ...answers })
    mountInKit(LabSettingsPane, { mayChange })
    await settled()
    return sent
  }

  it('are sent whole with their reason and the revision that was seen', async () => {
    const sent = await settings(HOUSE, { 'PUT /api/lab-settings': HOUSE }, true, 'manage-people')
    expect(button('Save or propose change').disabled).toBe(true)
    await fill('Address', 'Quay 2')
    await fill('Reason', 'we moved')
    await submit()
    expect(changes(sent)[0]!.body).toMatchObject({
      name: 'Harbour Lab',
      address: 'Quay 2',
      rounding: 'half-even',
      revision: 4,
      reason: 'we moved',
    })
  })

  it('that are proposed are confirmed by somebody else', async () => {
    const house = { ...HOUSE, proposed: PROPOSED }
    const sent = await settings(house, { 'POST /api/lab-settings/confirm': HOUSE }, false, 'equip')
    expect(shown()).toContain('rounding from half-even to half-up. Proposed by Maren')
    await press('Confirm change')
    expect(changes(sent)).toMatchObject([
      { to: 'POST /api/lab-settings/confirm', body: { revision: 4 } },
    ])
  })

  it('that one proposed oneself can only be withdrawn', async () => {
    const house = { ...HOUSE, proposed: { ...PROPOSED, by_id: 1 } }
    const sent = await settings(house, { 'POST /api/lab-settings/decline': HOUSE }, true, 'equip')
    expect(() => button('Confirm change')).toThrow()
    await press('Withdraw proposal')
    expect(changes(sent).map((each) => each.to)).toEqual(['POST /api/lab-settings/decline'])
  })

  it('are read by anybody, with every change that there was', async () => {
    await settings(HOUSE, {}, false)
    expect(shown()).toContain('Maren changed the address')
    expect(() => button('Save or propose change')).toThrow()
  })
})
