import '@fontsource-variable/atkinson-hyperlegible-mono'
import '@fontsource-variable/atkinson-hyperlegible-next'
import 'vuetify/styles'
import '@/styles/tokens.css'
import '@/styles/base.css'
import { notifyManager, QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import { createVuetify } from 'vuetify'
import App from '@/app/App.vue'
import { Problem } from '@/api/client'
import { router } from '@/app/router'

// What was read is on the page before a key is free again: the usual later turn would leave a moment
// in which a quick hand works on what was there before.
notifyManager.setScheduler(queueMicrotask)

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 1000,
      retry: (count, error) => error instanceof Problem && error.status === 0 && count < 40,
      retryDelay: 1500,
      networkMode: 'always',
    },
    mutations: { networkMode: 'always' },
  },
})

const ours = (primary: string, surface: string, error: string, ink: string) => ({
  colors: {
    primary,
    surface,
    background: surface,
    error,
    'on-surface': ink,
    'on-background': ink,
  },
  variables: { 'medium-emphasis-opacity': 0.8 },
})

const vuetify = createVuetify({
  theme: {
    defaultTheme: 'light',
    themes: {
      light: { dark: false, ...ours('#1d4f91', '#fbf9f4', '#a5322a', '#17242e') },
      dark: { dark: true, ...ours('#86b8ee', '#141d22', '#f0877b', '#ece6d8') },
    },
  },
  defaults: {
    global: { ripple: false },
    VTextField: { variant: 'outlined', density: 'comfortable', hideDetails: 'auto' },
    VCombobox: { variant: 'outlined', density: 'comfortable', hideDetails: 'auto' },
    VFileInput: { variant: 'outlined', density: 'comfortable', hideDetails: 'auto' },
    VAutocomplete: { variant: 'outlined', density: 'comfortable', hideDetails: 'auto' },
    VTextarea: { variant: 'outlined', density: 'comfortable', hideDetails: 'auto' },
    VSelect: { variant: 'outlined', density: 'comfortable', hideDetails: 'auto' },
  },
})

createApp(App).use(router).use(VueQueryPlugin, { queryClient: queries }).use(vuetify).mount('#app')
