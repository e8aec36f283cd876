import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { brotliCompressSync, constants } from 'node:zlib'
import type { Plugin } from 'vite'

/**
 * What opening the product costs: the chunks and letters of the Cloth, where people are nearly always headed, are
 * asked for at once and not one after the other; and every text is compressed once, here, and not for each who asks.
 */

const HEADED_FOR = ['AppShell', 'ClothView']
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
        const wanted = new Set<string>()
        const want = (file: string): void => {
          const chunk = bundle[file]
          if (chunk?.type !== 'chunk' || wanted.has(file)) return
          wanted.add(file)
          chunk.imports.forEach(want)
        }
        for (const chunk of Object.values(bundle))
          if (chunk.type === 'chunk' && HEADED_FOR.includes(chunk.name)) want(chunk.fileName)
        const entry = Object.values(bundle).find(c => c.type === 'chunk' && c.isEntry)
        const known = new Set(entry?.type === 'chunk' ? [entry.fileName, ...entry.imports] : [])
        const letters = Object.keys(bundle).filter(f => LETTERS.test(f))
        return [
          ...[...wanted]
            .filter(f => !known.has(f))
            .map(f => ({
              tag: 'link',
              injectTo: 'head' as const,
              attrs: { rel: 'modulepreload', crossorigin: '', href: `/${f}` },
            })),
          ...letters.map(f => ({
            tag: 'link',
            injectTo: 'head' as const,
            attrs: { rel: 'preload', as: 'font', type: 'font/woff2', href: `/${f}`, crossorigin: '' },
          })),
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
