import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { firstLoad } from './first-load.ts'

const server = `http://127.0.0.1:${process.env.LOOM_PORT ?? 4000}`

export default defineConfig({
  plugins: [vue(), firstLoad()],
  resolve: {
    alias: [
      {
        find: /^temporal-polyfill$/,
        replacement: fileURLToPath(new URL('src/ui/temporal.ts', import.meta.url)),
      },
    ],
  },
  // It loads a Temporal where the browser has none.
  worker: { format: 'es' },
  server: { host: '127.0.0.1', port: 5173, proxy: { '/api': server } },
  build: {
    target: 'es2022',
    cssCodeSplit: false,
    chunkSizeWarningLimit: 1200,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            // What everybody needs at once is one file, not one for each set of views that share a part of it.
            { name: 'first', tags: ['$initial'] },
            // It tries something that throws while it is loaded, and for the place of an error the engine reads all of
            // the file anew: better a small one.
            { name: 'lodash', test: /lodash-es/, priority: 1 },
          ],
        },
      },
    },
  },
})
