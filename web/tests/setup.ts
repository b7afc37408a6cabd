import { vi } from 'vitest'
import { answering } from './serve'

// What Vuetify's overlays look at, and happy-dom lacks.
vi.stubGlobal('visualViewport', new EventTarget())
// What a test does not answer itself never comes: no test asks a server.
vi.stubGlobal('fetch', answering)
