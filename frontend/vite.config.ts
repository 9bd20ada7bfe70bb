import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  // blanks between elements are what they are in HTML: how a template is laid out changes nothing
  plugins: [vue({ template: { compilerOptions: { whitespace: 'preserve' } } }), vuetify({ autoImport: true })],
  resolve: { alias: { '@': new URL('./src', import.meta.url).pathname } },
  build: { chunkSizeWarningLimit: 900, modulePreload: { polyfill: false } },
  test: {
    environment: 'happy-dom',
    environmentOptions: { happyDOM: { url: 'http://localhost/' } },
    include: ['tests/*.test.ts'],
    testTimeout: 30_000,
    server: { deps: { inline: ['vuetify'] } },
  },
})
