import { sightIn } from '../access/sight.ts'
import { seenWhole } from '../access/rights.ts'
import {
  admits,
  calendarObjectOf,
  dayOf,
  type Filter,
  type Item,
  jsCalendarOf,
  writeCalendarFile,
  writeJsCalendar,
  writeTable,
} from '@loom/core'
import { mirrorOf } from '../data/repositories/mirrors.ts'
import type { Context } from '../context/context.ts'
import { type FileFormat, inTurns } from './read.ts'
import { itemsToExport } from '../data/repositories/originals.ts'
import type { Member } from '../data/repositories/sessions.ts'

/** A selection of what is here, as a file. */
export interface Selection {
  /** Ids of calendars and lists; all that take part when empty. */
  collections: string[]
  filter: Filter
  /** `YYYY-MM-DD`, both included; an item without a date is only in a selection without days. */
  from: string | null
  to: string | null
}

const MAX_ITEMS = 50_000

/** An item as its service sent it, where it did. */
export interface Chosen {
  collection: string
  item: Item
  original: string | null
}

function within(item: Item, { from, to }: Selection, zone: string): boolean {
  if (!from && !to) return true
  const when = item.kind === 'event' ? item.time.anchor : (item.start ?? item.due)
  if (!when) return false
  const day = dayOf(when, zone)
  // A series that began before may go on; the reader decides how far.
  const begins = item.kind === 'event' && item.recurring ? true : !from || day >= from
  return begins && (!to || day <= to)
}

/** What somebody sees whole of a selection, by id; no more than `MAX_ITEMS`. */
export async function choose(ctx: Context, member: Member, selection: Selection): Promise<Chosen[]> {
  const chosen: Chosen[] = []
  const terms = { me: null, now: ctx.now(), zone: member.zone }
  let after = ''
  const lists = await wholeListsOf(ctx, member, selection.collections)
  for (;;) {
    const rows = await itemsToExport(ctx.db, {
      workspaceId: member.workspaceId,
      after,
      collections: lists,
    })
    const whole = new Set((await seenWhole(ctx.db, member, rows, r => [r.id])).map(r => r.id))
    for (const row of rows) {
      const { item, collectionId: collection } = mirrorOf(row)
      if (whole.has(row.id) && admits(selection.filter, item, terms) && within(item, selection, member.zone))
        chosen.push({ collection, item, original: row.original })
    }
    const last = rows.at(-1)
    if (!last || chosen.length >= MAX_ITEMS) return chosen.slice(0, MAX_ITEMS)
    after = last.id
  }
}

/** Of what was chosen, or of all, what somebody sees whole: a file holds all that an item says. */
async function wholeListsOf(ctx: Context, member: Member, chosen: readonly string[]): Promise<string[]> {
  const whole = (await sightIn(ctx.db, member)).withAtLeast('everything')
  return ['', ...(chosen.length === 0 ? whole : whole.filter(id => chosen.includes(id)))]
}

/** Something of each, letting others have their turn. */
export function* each<T>(chosen: readonly Chosen[], make: (c: Chosen) => T): Generator<null, T[]> {
  const made: T[] = []
  for (const c of chosen) {
    made.push(make(c))
    yield null
  }
  return made
}

export interface Exported {
  text: string
  type: string
  name: string
  count: number
}

export async function exportFile(
  ctx: Context,
  member: Member,
  format: FileFormat,
  selection: Selection,
): Promise<Exported> {
  const chosen = await choose(ctx, member, selection)
  const now = ctx.now()
  const day = new Date(now).toISOString().slice(0, 10)
  const count = chosen.length
  if (format === 'csv') {
    const text = writeTable(chosen.map(c => c.item))
    return { text, type: 'text/csv; charset=utf-8', name: `amber-loom-${day}.csv`, count }
  }
  if (format === 'ics') {
    const objects = await inTurns(each(chosen, c => calendarObjectOf(c.item, c.original, now)))
    return {
      text: writeCalendarFile(objects),
      type: 'text/calendar; charset=utf-8',
      name: `amber-loom-${day}.ics`,
      count,
    }
  }
  const entries = await inTurns(each(chosen, c => jsCalendarOf(c.item, c.original, now)))
  return {
    text: writeJsCalendar(entries, `amber-loom-${day}`, now),
    type: 'application/jscalendar+json; type=group; charset=utf-8',
    name: `amber-loom-${day}.jscalendar.json`,
    count,
  }
}
