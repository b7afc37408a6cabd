import vue from '@vitejs/plugin-vue'
import { fileURLToPath, URL } from 'node:url'
import vuetify from 'vite-plugin-vuetify'
import { defineConfig } from 'vitest/config'

// A thread takes the time zone of its process; it cannot be given one of its own.
process.env.TZ = 'Europe/Berlin'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  test: {
    environment: 'happy-dom',
    include: ['tests/**/*.spec.ts'],
    setupFiles: ['tests/setup.ts'],
    server: { deps: { inline: ['vuetify'] } },
    pool: 'threads',
    // The files share their modules, so that the kit is loaded once a thread;
    // what a test must leave as it was stands in its setup.
    isolate: false,
  },
})
