import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'
import { verifyPagePlugin } from './verify-page.ts'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true }), verifyPagePlugin()],
  build: { target: 'es2022', chunkSizeWarningLimit: 1200, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  // The server that runs the product answers the API while the interface is worked on.
  server: { proxy: { '/api': 'http://127.0.0.1:4680' } },
})
