import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Hono } from 'hono'
import { getMimeType } from 'hono/utils/mime'

/**
 * The built page, served from memory: opening it asks for some twenty files at once, and reading them from disk
 * took a third of the loading time. They are a few megabytes and do not change while the server runs.
 */

interface WebFile {
  plain: Uint8Array<ArrayBuffer>
  /** Compressed when it was built, where that pays. */
  brotli: Uint8Array<ArrayBuffer> | null
  headers: Record<string, string>
}

const COMPRESSED = '.br'
const FOREVER = 'public, max-age=31536000, immutable'

function filesIn(folder: string): Map<string, WebFile> {
  const bytes = new Map(
    readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter(entry => entry.isFile())
      .map(entry => join(entry.parentPath, entry.name))
      .map(path => [path.slice(folder.length).replaceAll('\\', '/'), Uint8Array.from(readFileSync(path))]),
  )
  const files = new Map<string, WebFile>()
  for (const [path, plain] of bytes)
    if (!path.endsWith(COMPRESSED))
      files.set(path, {
        plain,
        brotli: bytes.get(path + COMPRESSED) ?? null,
        headers: {
          'Content-Type': getMimeType(path) ?? 'application/octet-stream',
          // A file under assets has its content in its name; the others are asked for again each time.
          'Cache-Control': path.startsWith('/assets/') ? FOREVER : 'no-cache',
        },
      })
  return files
}

/**
 * Any address that is no file is a view of the page, except under assets: a missing file there belongs to an
 * earlier build, and the page is told so. Throws if the page was not built.
 */
export function webFiles(folder: string): Hono {
  const files = filesIn(folder)
  const page = files.get('/index.html')
  if (!page) throw new Error(`There is no page in ${folder}: npm run build makes it.`)
  return new Hono().get('*', c => {
    const file = files.get(c.req.path) ?? (c.req.path.startsWith('/assets/') ? null : page)
    if (!file) return c.notFound()
    const accepted = (c.req.header('Accept-Encoding') ?? '').split(',').map(e => e.split(';')[0]?.trim())
    if (!file.brotli) return c.body(file.plain, 200, file.headers)
    const vary = { ...file.headers, Vary: 'Accept-Encoding' }
    return accepted.includes('br')
      ? c.body(file.brotli, 200, { ...vary, 'Content-Encoding': 'br' })
      : c.body(file.plain, 200, vary)
  })
}
