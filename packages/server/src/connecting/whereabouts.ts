import { nearestMirrors } from '../data/repositories/chosen-items.ts'
import { addDays, dayAt, mondayOf } from '@loom/core'
import type { Context } from '../context/context.ts'
import { remoteItemOf } from '../data/repositories/mirrors.ts'

import { reasonsOf } from '../data/repositories/problems.ts'
import type { ConnectionRow } from '../data/repositories/connections.ts'

/** Where what came in is to be found, above all what one does not see at a glance. */
export interface Whereabouts {
  place:
    'this-week' | 'earlier' | 'later' | 'shelf' | 'done' | 'outside' | 'not-taking-part' | 'not-understood'
  count: number
  /** The nearest few, with the week in which the Cloth shows them. */
  items: { title: string; collection: string; week: string | null }[]
}

const SOME = 8

export async function whereabouts(
  ctx: Context,
  row: ConnectionRow,
  zone: string,
): Promise<{ places: Whereabouts[] }> {
  const places = new Map<Whereabouts['place'], Whereabouts>()
  const monday = mondayOf(dayAt(ctx.now(), zone))
  const add = (place: Whereabouts['place'], title: string, collection: string, week: string | null): void => {
    const at = places.get(place) ?? { place, count: 0, items: [] }
    at.count++
    if (at.items.length < SOME) at.items.push({ title: title || 'Untitled', collection, week })
    places.set(place, at)
  }
  const rows = await nearestMirrors(ctx.db, { id: row.id, now: ctx.now() })
  for (const m of rows) {
    const item = remoteItemOf(m)
    const say = (place: Whereabouts['place'], week: string | null): void =>
      add(place, item.summary, m.collection, week)
    if (m.presence === 'outside') say('outside', null)
    else if (m.takes_part === 0) say('not-taking-part', null)
    else if (m.start_ms !== null) {
      const week = mondayOf(dayAt(m.start_ms, zone))
      const here = week === monday || (m.recurring === 1 && week < addDays(monday, 7))
      say(here ? 'this-week' : week < monday ? 'earlier' : 'later', week)
    } else say(m.open_task === 1 ? 'shelf' : 'done', null)
  }
  const problems = await reasonsOf(ctx.db, { id: row.id })
  for (const p of problems) add('not-understood', p.reason, p.name, null)
  return { places: [...places.values()] }
}
