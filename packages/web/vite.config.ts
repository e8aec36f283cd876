import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { firstLoad } from './first-load.ts'

const server = `http://127.0.0.1:${process.env.LOOM_PORT ?? 4000}`

export default defineConfig({
  plugins: [vue(), firstLoad()],
  server: { host: '127.0.0.1', port: 5173, proxy: { '/api': server } },
  build: {
    target: 'es2022',
    cssCodeSplit: false,
    chunkSizeWarningLimit: 1200,
    rolldownOptions: {
      // What everybody needs at once is one file, not one for each set of views that share a part of it.
      output: { codeSplitting: { groups: [{ name: 'first', tags: ['$initial'] }] } },
      // A schema that the page does not read is left out, though making one is a call.
      treeshake: { manualPureFunctions: ['z'] },
    },
  },
})
