import { afterEach, vi } from 'vitest'
import { config } from '@vue/test-utils'
import { i18n } from '@/ui/words'
import { writing } from '@/ui/writing'
import { unmountAll } from './kit'

config.global.plugins = [i18n]

// These files share their modules, so that the kit is loaded once a worker: each test leaves the page, the
// clock, the drafts and the writing of the laboratory as they were.
afterEach(() => {
  vi.useRealTimers()
  unmountAll()
  localStorage.clear()
  Object.assign(writing, { decimal_sign: 'point', date_style: 'named', units: 'metric' })
})
