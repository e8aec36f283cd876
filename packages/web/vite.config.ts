import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { firstLoad } from './first-load.ts'

const server = `http://127.0.0.1:${process.env.LOOM_PORT ?? 4000}`

export default defineConfig({
  plugins: [vue(), firstLoad()],
  server: { host: '127.0.0.1', port: 5173, proxy: { '/api': server } },
  build: { target: 'es2022', chunkSizeWarningLimit: 900 },
})
