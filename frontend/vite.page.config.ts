// The viewer of pages for the search box: one file with a name that stays, fetched when somebody opens a page.
import { compression } from 'vite-plugin-compression2'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [compression({ algorithms: ['gzip', 'brotliCompress'], include: /harbor-page\.js$/ })],
  publicDir: false,
  build: {
    target: 'es2022',
    emptyOutDir: false,
    lib: { entry: 'visitor/page-viewer.ts', formats: ['es'], fileName: () => 'harbor-page.js' },
  },
})
