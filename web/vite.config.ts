import vue from '@vitejs/plugin-vue'
import { fileURLToPath, URL } from 'node:url'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

const server = process.env.ENDURANT_SERVER ?? 'http://127.0.0.1:8420'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  server: { proxy: { '/api': { target: server, ws: true } } },
  build: { chunkSizeWarningLimit: 900, assetsInlineLimit: 0 },
})
