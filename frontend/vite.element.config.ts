// The search box for pages of other sites: one file with a name that stays, beside the page's own files.
import { compression } from 'vite-plugin-compression2'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [compression({ algorithms: ['gzip', 'brotliCompress'], include: /harbor-search\.js$/ })],
  publicDir: false,
  build: {
    target: 'es2022',
    emptyOutDir: false,
    lib: { entry: 'visitor/element.ts', formats: ['es'], fileName: () => 'harbor-search.js' },
  },
})
