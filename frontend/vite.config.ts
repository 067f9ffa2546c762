import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { compression } from 'vite-plugin-compression2'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  // Wherever a proxy puts the page: its files are found from where they stand.
  base: './',
  plugins: [
    react(),
    tailwindcss(),
    compression({ algorithms: ['gzip', 'brotliCompress'], include: /\.(js|css|svg)$/ }),
  ],
  // For work on the page: `npm run dev` beside a running server.
  server: { proxy: { '/api': process.env.PALEHARBOR_SERVER ?? 'http://127.0.0.1:7340' } },
  // The page's content policy allows no inlined files.
  build: {
    target: 'es2022',
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    rolldownOptions: { input: ['index.html', 'visit.html'] },
  },
  // A machine may have much else to do: the first call of a test is the slowest.
  test: { include: ['src/**/*.test.ts', 'visitor/**/*.test.ts'], testTimeout: 60_000 },
})
