import { readdirSync, readFileSync } from 'node:fs'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'
import vuetify from 'vite-plugin-vuetify'

/** What a PDF may need of fonts and character maps, beside our own files. */
const forPdfs = {
  name: 'for-pdfs',
  apply: 'build' as const,
  generateBundle(this: { emitFile: (it: { type: 'asset'; fileName: string; source: Uint8Array }) => unknown }) {
    for (const folder of ['cmaps', 'standard_fonts'])
      for (const name of readdirSync(`node_modules/pdfjs-dist/${folder}`))
        this.emitFile({
          type: 'asset',
          fileName: `pdf/${folder}/${name}`,
          source: readFileSync(`node_modules/pdfjs-dist/${folder}/${name}`),
        })
  },
}

export default defineConfig({
  // blanks between elements are what they are in HTML: how a template is laid out changes nothing
  plugins: [vue({ template: { compilerOptions: { whitespace: 'preserve' } } }), vuetify({ autoImport: true }), forPdfs],
  resolve: { alias: { '@': new URL('./src', import.meta.url).pathname } },
  build: { chunkSizeWarningLimit: 900, modulePreload: { polyfill: false } },
  test: {
    environment: 'happy-dom',
    environmentOptions: { happyDOM: { url: 'http://localhost/' } },
    testTimeout: 30_000,
    server: { deps: { inline: ['vuetify'] } },
    // what is imported is shared: half of the time; the desk's tests put modules of their own in place
    projects: [
      { extends: true, test: { name: 'apart', include: ['tests/desk.test.ts'] } },
      {
        extends: true,
        test: { name: 'together', include: ['tests/*.test.ts'], exclude: ['tests/desk.test.ts'], isolate: false },
      },
    ],
  },
})
