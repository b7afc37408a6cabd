import '@fontsource-variable/atkinson-hyperlegible-mono'
import '@fontsource-variable/atkinson-hyperlegible-next'
import 'vuetify/styles'
import '@/styles/tokens.css'
import '@/styles/base.css'
import { notifyManager, QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import App from '@/app/App.vue'
import { Problem } from '@/api/client'
import { askBeforeLeaving } from '@/app/leaving'
import { router } from '@/app/router'
import { i18n } from '@/ui/words'

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

const field = { variant: 'outlined', density: 'comfortable', hideDetails: 'auto', color: 'primary' }

const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    defaultTheme: 'light',
    themes: {
      light: { dark: false, ...ours('#1d4f91', '#fbf9f4', '#a5322a', '#17242e') },
      dark: { dark: true, ...ours('#86b8ee', '#141d22', '#f0877b', '#ece6d8') },
    },
  },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'text' },
    VCheckbox: { density: 'compact', hideDetails: true, color: 'primary' },
    VRadioGroup: { density: 'compact', hideDetails: true, color: 'primary' },
    VTextField: field,
    VCombobox: field,
    VFileInput: field,
    VAutocomplete: field,
    VTextarea: field,
    VSelect: field,
  },
})

askBeforeLeaving(router)

createApp(App)
  .use(router)
  .use(VueQueryPlugin, { queryClient: queries })
  .use(vuetify)
  .use(i18n)
  .mount('#app')
