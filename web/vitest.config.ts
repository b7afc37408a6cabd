import vue from '@vitejs/plugin-vue'
import { fileURLToPath, URL } from 'node:url'
import vuetify from 'vite-plugin-vuetify'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  test: {
    environment: 'happy-dom',
    setupFiles: ['tests/setup.ts'],
    env: { TZ: 'Europe/Berlin' },
    server: { deps: { inline: ['vuetify'] } },
    projects: [
      { extends: true, test: { name: 'logic', include: ['tests/*.spec.ts'] } },
      {
        extends: true,
        test: {
          name: 'screens',
          include: ['tests/screens/*.spec.ts'],
          setupFiles: ['tests/setup.ts', 'tests/screens/setup.ts'],
          isolate: false,
        },
      },
    ],
  },
})
