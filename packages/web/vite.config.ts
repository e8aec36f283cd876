import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'
import { firstLoad } from './first-load.ts'

const server = `http://127.0.0.1:${process.env.LOOM_PORT ?? 4000}`

export default defineConfig({
  plugins: [
    vue(),
    VitePWA({
      strategies: 'injectManifest',
      srcDir: 'src/worker',
      filename: 'service-worker.ts',
      // A person who wants it asks for it; nobody is given one by opening the page.
      injectRegister: false,
      injectManifest: { injectionPoint: undefined },
      manifest: {
        name: 'Amber Loom',
        short_name: 'Amber Loom',
        description: 'Tasks and events of a team in one cloth.',
        id: '/',
        start_url: '/day',
        display: 'standalone',
        background_color: '#F7F2E8',
        theme_color: '#2B211A',
        icons: [
          { src: '/icon-192.png', sizes: '192x192', type: 'image/png' },
          { src: '/icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'any maskable' },
          { src: '/mark.svg', sizes: 'any', type: 'image/svg+xml' },
        ],
        shortcuts: [
          { name: 'Day', url: '/day' },
          { name: 'Cloth', url: '/cloth' },
        ],
      },
    }),
    firstLoad(),
  ],
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
