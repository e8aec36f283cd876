import { nearestMirrors } from '../data/repositories/chosen-items.ts'
import { addDays, dayAt, mondayOf } from '@loom/core'
import { connectorOf, type Context } from '../context/context.ts'
import { collectionSettings } from '../data/repositories/collection-views.ts'
import { remoteItemOf } from '../data/repositories/mirrors.ts'

import { reasonsOf } from '../data/repositories/problems.ts'
import { type ConnectionRow, OWN } from '../data/repositories/connections.ts'
import { withoutParts } from './connect-service.ts'
import { searchListing } from './listings.ts'

/** `never-in`: at the service, and never brought in. */
export const PLACES = [
  'this-week',
  'earlier',
  'later',
  'shelf',
  'done',
  'outside',
  'never-in',
  'not-taking-part',
  'not-understood',
] as const

/** Where what came in is to be found, above all what one does not see at a glance. */
export interface Whereabouts {
  place: (typeof PLACES)[number]
  count: number
  /** The nearest of them, with the week in which the Cloth shows them; `key` where one can be opened. */
  items: { key: string | null; title: string; collection: string; week: string | null }[]
}

/** How many of each place are named: at a glance, among what is searched for, of a place that is shown whole. */
const SOME = { glance: 8, search: 50, whole: 1_000 }

export interface Sought {
  /** Only what has all of these words in its title. */
  words: string
  /** This place is shown whole. */
  whole: Whereabouts['place'] | null
}

export async function whereabouts(
  ctx: Context,
  row: ConnectionRow,
  zone: string,
  { words, whole }: Sought,
): Promise<{ places: Whereabouts[]; reading: boolean; error: string | null }> {
  const places = new Map<Whereabouts['place'], Whereabouts>()
  const monday = mondayOf(dayAt(ctx.now(), zone))
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  const isWanted = (title: string): boolean => wanted.every(w => title.toLowerCase().includes(w))
  const add = (place: Whereabouts['place'], item: Whereabouts['items'][number]): void => {
    if (!isWanted(item.title)) return
    const at = places.get(place) ?? { place, count: 0, items: [] }
    at.count++
    const most = place === whole ? SOME.whole : wanted.length > 0 ? SOME.search : SOME.glance
    if (at.items.length < most) at.items.push({ ...item, title: item.title || 'Untitled' })
    places.set(place, at)
  }
  const rows = await nearestMirrors(ctx.db, { id: row.id, now: ctx.now() })
  for (const m of rows) {
    const item = remoteItemOf(m)
    const isDrawn = m.presence === 'present' && m.takes_part === 1
    const say = (place: Whereabouts['place'], week: string | null): void =>
      add(place, { key: isDrawn ? m.id : null, title: item.summary, collection: m.collection, week })
    if (m.presence === 'outside') say('outside', null)
    else if (m.takes_part === 0) say('not-taking-part', null)
    else if (m.start_ms !== null) {
      const week = mondayOf(dayAt(m.start_ms, zone))
      const here = week === monday || (m.recurring === 1 && week < addDays(monday, 7))
      say(here ? 'this-week' : week < monday ? 'earlier' : 'later', week)
    } else say(m.open_task === 1 ? 'shelf' : 'done', null)
  }
  const problems = await reasonsOf(ctx.db, { id: row.id })
  for (const p of problems)
    add('not-understood', { key: null, title: p.reason, collection: p.name, week: null })
  // Only somebody who looks for something has the whole service read for it.
  if (wanted.length === 0 || row.kind === OWN)
    return { places: [...places.values()], reading: false, error: null }
  const lists = await collectionSettings(ctx.db, { id: row.id })
  const names = new Map(lists.map(l => [l.remoteId, l.name]))
  const known = new Set(rows.map(m => m.remote_id))
  const { found, reading, error } = searchListing(
    // Somebody who looks again a minute later is not told what was there before.
    { key: `${row.id} ${Math.floor(Date.now() / 60_000)}`, background: ctx.background },
    await connectorOf(ctx, row),
    withoutParts(lists.filter(l => l.whyNot === null).map(l => l.remoteId)),
    words,
  )
  for (const f of found)
    if (!known.has(f.remoteId))
      add('never-in', { key: null, title: f.title, collection: names.get(f.collection) ?? '', week: null })
  return { places: [...places.values()], reading, error }
}
