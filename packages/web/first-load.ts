import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { brotliCompressSync, constants } from 'node:zlib'
import type { Plugin } from 'vite'

/**
 * What opening the product costs: its letters and who is signed in are asked for together with its code, and not
 * after it; and every text is compressed once, here, and not for each who asks.
 */

const LETTERS = /(atkinson|bricolage).*-latin-wght-normal.*\.woff2$/
const TEXT = /\.(js|css|svg|html)$/

export function firstLoad(): Plugin {
  let folder = 'dist'
  return {
    name: 'first-load',
    apply: 'build',
    configResolved: config => {
      folder = join(config.root, config.build.outDir)
    },
    transformIndexHtml: {
      order: 'post',
      handler(_html, { bundle = {} }) {
        const preload = (attrs: Record<string, string>) => ({
          tag: 'link',
          injectTo: 'head-prepend' as const,
          attrs: { rel: 'preload', crossorigin: '', ...attrs },
        })
        const letters = Object.keys(bundle).filter(f => LETTERS.test(f))
        return [
          preload({ as: 'fetch', href: '/api/session' }),
          ...letters.map(f => preload({ as: 'font', type: 'font/woff2', href: `/${f}` })),
        ]
      },
    },
    closeBundle() {
      for (const at of ['.', 'assets'])
        for (const file of readdirSync(join(folder, at)).filter(f => TEXT.test(f))) {
          const path = join(folder, at, file)
          const params = { [constants.BROTLI_PARAM_QUALITY]: 9 }
          writeFileSync(`${path}.br`, brotliCompressSync(readFileSync(path), { params }))
        }
    },
  }
}
