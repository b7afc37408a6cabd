import { describe, expect, it } from 'vitest'
import CalendarDialog from '@/today/CalendarDialog.vue'
import { changes, field, press, serve, settled, shown } from '../serve'
import { mountInKit } from './kit'

describe('the calendar', () => {
  it('has an address that is shown once, and is revoked', async () => {
    let made: string | null = null
    const sent = serve({
      'GET /api/calendar-address': () => ({ made_at: made, path: null }),
      'POST /api/calendar-address': () => {
        made = '2026-12-01T09:00:00Z'
        return { made_at: made, path: '/api/calendar/secret.ics' }
      },
      'DELETE /api/calendar-address': () => {
        made = null
        return { made_at: null, path: null }
      },
    })
    mountInKit(CalendarDialog, { modelValue: true })
    await settled()
    expect(shown()).not.toContain('Revoke address')
    await press('Make address')
    expect(field('Your calendar address').value).toBe(
      `${window.location.origin}/api/calendar/secret.ics`,
    )
    await press('Revoke address')
    expect(changes(sent).map((each) => each.to)).toEqual([
      'POST /api/calendar-address',
      'DELETE /api/calendar-address',
    ])
    expect(shown()).not.toContain('Revoke address')
  })
})
