import { afterAll, afterEach, vi } from 'vitest'
import { config } from '@vue/test-utils'
import { i18n } from '@/ui/words'
import { writing } from '@/ui/writing'
import { unmountAll } from './screens/kit'
import { answering } from './serve'

// What Vuetify's overlays look at, and happy-dom lacks.
vi.stubGlobal('visualViewport', new EventTarget())
// What a test does not answer itself never comes: no test asks a server.
vi.stubGlobal('fetch', answering)

config.global.plugins = [i18n]

// Each test leaves the page, the clock, the drafts and the writing of the laboratory as they were.
afterEach(() => {
  vi.useRealTimers()
  unmountAll()
  localStorage.clear()
  Object.assign(writing, { decimal_sign: 'point', date_style: 'named', units: 'metric' })
})

// The files of a thread share their modules: what one of them spied on is let go for the next.
afterAll(() => void vi.restoreAllMocks())
