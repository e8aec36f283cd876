import {
  lockBatchDates,
  setTieOccurrence,
  lockBatchDatesOf,
  moveBatchTies,
} from '../data/repositories/blocks.ts'
import { presentWithUid } from '../data/repositories/chosen-items.ts'
import { randomUUID } from 'node:crypto'
import {
  asInPatch,
  decideSeriesEdit,
  dayAt,
  type Edit,
  epochOf,
  type Event,
  type ItemPatch,
  type ItemSource,
  NotUnderstood,
  occurrencesBetween,
  parseEvent,
  patchSeries,
  type Which,
} from '@loom/core'
import type { Sql, Tx } from '../data/database.ts'
import type { Context } from '../context/context.ts'
import { DEFAULT_MINUTES } from './cloth.ts'
import { type EditAnswer, queue, queueRemoval } from './edit.ts'
import { drawn, loadPairs, lockPair } from './pairs.ts'

import { originalWithHome, originalsOfMirrors } from '../data/repositories/originals.ts'

import type { Member } from '../data/repositories/sessions.ts'

/** An edit of one date of a series, for that one, that and later ones, or all of them. */

const MOST_UNDONE = 200_000

export async function editSeries(
  ctx: Context,
  member: Member,
  key: string,
  edit: Edit,
  which: Which,
): Promise<EditAnswer> {
  const [mirrorId = key, id] = key.split('@')
  const refused = (reason: string, status: 404 | 409 = 409): EditAnswer => ({ ok: false, status, reason })
  try {
    const answer = await ctx.db.commit(async (sql): Promise<EditAnswer> => {
      await lockPair(sql, mirrorId)
      const found = await seriesAt(sql, member, mirrorId)
      if (!found) return refused('It is no longer there.', 404)
      const { event, text, connectionId } = found
      if (edit.do === 'series-back') return back(sql, member, mirrorId, event, edit, connectionId)
      if (!id) return refused('Say which of its dates you mean.')
      const item = dateOf(found, id, member, ctx.now())
      if (!item) return refused('That date is no longer there.', 404)
      const uid = randomUUID()
      const terms = { uid, zone: member.zone, now: ctx.now() }
      const planned = decideSeriesEdit({ event, item, text }, id, edit, which, terms)
      if (!planned.ok) return refused(planned.reason)
      const title = item.title
      if (planned.remove) await queueRemoval(sql, member, mirrorId, title, 'person-delete')
      if (planned.patch) {
        const before = asInPatch(event.item, planned.patch)
        const later = await moveBatchDates(sql, mirrorId, text, planned, id)
        // The rest of a series goes on by itself only once this one ends before it.
        const then = planned.make && {
          item: { ...parseEvent(planned.make), uid },
          original: planned.make,
          binds: later,
        }
        const body = { by: 'person' as const, patch: planned.patch, before, ...(then && { then }) }
        await queue(sql, member, mirrorId, body, 'person-series', title)
      }
      sql.tell(member.workspaceId, { topics: ['cloth'] })
      const inverse: Edit = planned.remove
        ? { do: 'restore' }
        : { do: 'series-back', text: text.slice(0, MOST_UNDONE), drop: planned.make ? uid : null }
      return { ok: true, inverse, connectionId }
    })
    return answer
  } catch (error) {
    if (error instanceof NotUnderstood) return refused(error.message)
    throw error
  }
}

const names = (text: string): string[] => {
  const at = epochOf(parseEvent(text).time.anchor, 'UTC')
  return occurrencesBetween(text, at - AROUND_MS, at + 10 * AROUND_MS, 'UTC').map(o => o.recurrenceId)
}

/**
 * If dates of a repeating batch get other names, or become a series of their own, their tasks go with them.
 * Returns the ties for the new series.
 */
async function moveBatchDates(
  sql: Sql,
  mirrorId: string,
  text: string,
  { patch, make }: { patch: ItemPatch | null; make: string | null },
  from: string,
): Promise<string[]> {
  const held = await lockBatchDates(sql, { mirrorId })
  const shift = patch?.series?.do === 'shift' ? patch.series : null
  if (held.length === 0 || (!make && !shift)) return []
  const before = make ? names(text).filter(n => n >= from) : names(text)
  const after = make ? names(make) : names(patchSeries(text, shift ?? { do: 'drop', id: '' }, 0))
  const to = new Map(before.map((n, i) => [n, after[i]]))
  await rename(sql, held, to)
  return make ? held.filter(t => t.batch_date >= from).map(t => t.id) : []
}

async function rename(
  sql: Sql,
  ties: readonly { id: string; batch_date: string }[],
  to: ReadonlyMap<string, string | undefined>,
): Promise<void> {
  for (const { id, batch_date } of ties) {
    const name = to.get(batch_date)
    if (name === undefined || name === batch_date) continue
    await setTieOccurrence(sql, {
      id,
      name,
    })
  }
}

interface Found {
  event: ItemSource<Event>
  text: string
  connectionId: string
}

async function seriesAt(sql: Sql, member: Member, mirrorId: string): Promise<Found | null> {
  const { pairs } = await loadPairs(sql, member, [mirrorId])
  const event = pairs.find(p => p.event?.id === mirrorId)?.event
  const row = await originalWithHome(sql, { mirrorId })
  if (!event?.item.recurring || !row?.original.startsWith('BEGIN:VCALENDAR')) return null
  return { event, text: row.original, connectionId: row.connection_id }
}

const AROUND_MS = 400 * 86_400_000

/** The date as it is drawn now. An override may have put it far from where the rule has it. */
function dateOf({ event, text }: Found, id: string, member: Member, now: number) {
  const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now }
  const whole = drawn({ task: null, event, around: {}, twins: [] }, viewer)
  const at = Date.parse(id.length === 10 ? id : `${id.replace(/Z$/, '')}Z`)
  if (!whole || Number.isNaN(at)) return null
  const date = occurrencesBetween(text, at - AROUND_MS, at + AROUND_MS, member.zone).find(
    o => o.recurrenceId === id,
  )
  if (!date) return null
  const place = date.allDay
    ? { kind: 'all-day' as const, from: dayAt(date.startMs, member.zone), to: dayAt(date.endMs, member.zone) }
    : { kind: 'timed' as const, startMs: date.startMs, endMs: date.endMs }
  return { ...whole, title: date.summary || whole.title, place }
}

/** The tasks of a batch's dates are in the series again as it was, under the names it had. */
async function batchDatesBack(
  sql: Sql,
  mirrorId: string,
  madeId: string | null,
  text: string,
): Promise<void> {
  const held = await lockBatchDatesOf(sql, { ids: [mirrorId, madeId ?? mirrorId] })
  if (held.length === 0) return
  const originals = await originalsOfMirrors(sql, { part: [mirrorId, madeId ?? mirrorId] })
  const now = originals.flatMap(o => names(o.original)).sort()
  const was = names(text).sort()
  if (now.length === was.length) await rename(sql, held, new Map(now.map((n, i) => [n, was[i]])))
  if (madeId)
    await moveBatchTies(sql, {
      mirrorId,
      madeId,
    })
}

async function back(
  sql: Tx,
  member: Member,
  mirrorId: string,
  event: ItemSource<Event>,
  edit: Extract<Edit, { do: 'series-back' }>,
  connectionId: string,
): Promise<EditAnswer> {
  if (parseEvent(edit.text).uid !== event.item.uid)
    return { ok: false, status: 409, reason: 'That is another series.' }
  const title = event.item.summary || 'Untitled'
  const patch = { series: { do: 'back' as const, text: edit.text } }
  await queue(sql, member, mirrorId, { by: 'person', patch, before: {} }, 'person-series', title)
  const made = edit.drop ? await presentWithUid(sql, { connectionId, uid: edit.drop }) : null
  await batchDatesBack(sql, mirrorId, made?.id ?? null, edit.text)
  if (made) await queueRemoval(sql, member, made.id, title, 'person-delete')
  sql.tell(member.workspaceId, { topics: ['cloth'] })
  return { ok: true, inverse: { do: 'rename', title }, connectionId }
}
