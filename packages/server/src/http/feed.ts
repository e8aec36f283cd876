import { type Context as Call, Hono } from 'hono'
import { limitOf } from '../access/limits.ts'
import { hashOf } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { markLinkUsed, openLink, type Opens } from '../data/repositories/links.ts'
import { feedOf } from '../outward/feed.ts'

/**
 * Secret addresses for calendar programs. The secret is in the address, as these know no other place for it; it opens
 * nothing else.
 */

/** The same for one that was guessed, has ended, or whose maker has left: never an empty calendar. */
const NO_FEED = 'This address is not valid, or not any more. Ask whoever gave it to you for a new one.\n'
const USED_GRAIN_MS = 60_000
const isFeed = ({ opens }: { opens: Opens }): boolean => opens === 'feed' || opens === 'availability'

/** RFC 9110 §13.1.2: any of several, compared weakly. */
function isNamed(etag: string, asked: string | undefined): boolean {
  const plain = (tag: string): string => tag.trim().replace(/^W\//, '')
  return asked === '*' || (asked ?? '').split(',').some(tag => plain(tag) === plain(etag))
}

const takesGzip = (accepted: string | undefined): boolean =>
  (accepted ?? '').split(',').some(e => /^\s*(gzip|\*)\s*(;(?!\s*q=0(\.0*)?\s*$)|$)/i.test(e))

export function feedRoutes(ctx: Context, addressOf: (c: Call) => string) {
  const { db } = ctx
  const guesses = limitOf(db, { name: 'feed-guess', times: 60, seconds: 60 })
  return new Hono().get('/:file', async c => {
    const token = /^([0-9a-f]{64})\.ics$/.exec(c.req.param('file'))?.[1]
    const hash = token === undefined ? null : hashOf(token)
    const link = hash === null ? null : await openLink(db, { hash, now: Date.now() })
    if (!link || hash === null || !isFeed(link)) {
      const wait = await guesses.count(addressOf(c))
      return wait === null
        ? c.text(NO_FEED, 404, { 'Cache-Control': 'no-store' })
        : c.text('Too many tries.\n', 429, { 'Retry-After': String(wait) })
    }
    const { etag, plain, zipped } = await feedOf(ctx, link)
    if ((link.used_at ?? 0) < Date.now() - USED_GRAIN_MS)
      await markLinkUsed(db, { id: link.id, now: Date.now(), grain: USED_GRAIN_MS })
    const headers = {
      ETag: etag,
      'Cache-Control': 'private, no-cache',
      Vary: 'Accept-Encoding',
      'X-Robots-Tag': 'noindex',
    }
    if (isNamed(etag, c.req.header('If-None-Match'))) return c.body(null, 304, headers)
    const zips = takesGzip(c.req.header('Accept-Encoding'))
    return c.body(new Uint8Array(zips ? zipped : plain), 200, {
      ...headers,
      'Content-Type': 'text/calendar; charset=utf-8',
      'Content-Disposition': 'inline; filename="calendar.ics"',
      ...(zips && { 'Content-Encoding': 'gzip' }),
    })
  })
}
