import {
  clothItem,
  type ClothItem,
  dayAt,
  type Event,
  type ItemSource,
  occurrencesBetween,
  TooOften,
  understand,
  UnrollBudget,
  type Viewer,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { chunks } from '../data/chunks.ts'
import { originalsOfMirrors } from '../data/repositories/originals.ts'

/**
 * The dates of series, unrolled once for each span while a series is unchanged. The cost is bounded for each
 * calendar and for each answer: a series beyond the bound is drawn once and says how often it repeats.
 */

interface Unrolled {
  dates: ClothItem[]
  /** What it cost, in steps of an UnrollBudget. */
  steps: number
}

const unrolled = new WeakMap<ItemSource<Event>, Map<string, Unrolled>>()
/** Of one series; the oldest entry is dropped first. */
const MOST_SPANS = 12
/** Of one calendar: a third of a second's work, and more dates than a screen of six weeks can show. */
const OF_CALENDAR = { steps: 500_000, dates: 8_000 }
const OF_ANSWER = 25_000

interface Span {
  fromMs: number
  toMs: number
  viewer: Viewer
}

/** The dates of each series between two instants, epoch ms. */
export async function datesInSpan(
  sql: Sql,
  series: readonly ItemSource<Event>[],
  fromMs: number,
  toMs: number,
  viewer: Viewer,
): Promise<[ItemSource<Event>, ClothItem[]][]> {
  const span: Span = { fromMs, toMs, viewer }
  const key = [fromMs, toMs, viewer.zone, viewer.defaultMinutes].join(' ')
  const originals = await originalsOf(
    sql,
    series.filter(source => !unrolled.get(source)?.has(key)).map(source => source.id),
  )
  const byCalendar = new Map<string, ItemSource<Event>[]>()
  // Always in the same order, so that the same ones are left over whenever there are too many.
  for (const source of [...series].sort((x, y) => (x.id < y.id ? -1 : 1))) {
    const known = byCalendar.get(source.collectionId)
    if (known) known.push(source)
    else byCalendar.set(source.collectionId, [source])
  }
  const found = new Map<ItemSource<Event>, Unrolled>()
  for (const sources of byCalendar.values()) {
    const budget = new UnrollBudget(OF_CALENDAR.steps, OF_CALENDAR.dates)
    for (const source of sources) {
      const known = unrolled.get(source)?.get(key)
      if (budget.isSpent) {
        found.set(source, { dates: once(source, span, MUCH_HERE), steps: 0 })
        continue
      }
      const own = known ?? unroll(source, originals.get(source.id), span)
      if (!known) keep(source, key, own)
      budget.take(own.steps, own.dates.length)
      found.set(source, own)
    }
  }
  leaveOver(found, span)
  return series.map(source => [source, found.get(source)?.dates ?? []])
}

/** The dates of a series as somebody sees them who sees it lowered. */
export function datesAsSeen(
  seen: ItemSource<Event>,
  whole: ItemSource<Event>,
  dates: readonly ClothItem[],
  viewer: Viewer,
): readonly ClothItem[] {
  if (seen === whole) return dates
  const known = asSeen.get(seen)
  if (known?.of === dates) return known.dates
  const item = clothItem(null, seen, viewer)
  const fresh = !item
    ? []
    : dates.map(({ key, title, place, tooOften }) =>
        Object.freeze({
          ...item,
          ...{ key, title, place, tooOften },
          ...(tooOften !== null && { movable: false, movableByOthers: false, fixedBecause: tooOften }),
        }),
      )
  asSeen.set(seen, { of: dates, dates: fresh })
  return fresh
}
const asSeen = new WeakMap<ItemSource<Event>, { of: readonly ClothItem[]; dates: readonly ClothItem[] }>()

const MUCH_HERE = 'So much repeats in its calendar that this is shown once, not date by date.'

async function originalsOf(sql: Sql, ids: readonly string[]): Promise<Map<string, string>> {
  const originals = new Map<string, string>()
  for (const part of chunks(ids))
    for (const row of await originalsOfMirrors(sql, { part })) originals.set(row.mirror_id, row.original)
  return originals
}

function keep(source: ItemSource<Event>, key: string, dates: Unrolled): void {
  const spans = unrolled.get(source) ?? new Map<string, Unrolled>()
  unrolled.set(source, spans.set(key, dates))
  const [oldest] = spans.keys()
  if (spans.size > MOST_SPANS && oldest !== undefined) spans.delete(oldest)
}

/** Where there is too much in all, the series with the most dates are drawn once. */
function leaveOver(found: Map<ItemSource<Event>, Unrolled>, span: Span): void {
  let all = 0
  for (const { dates } of found.values()) all += dates.length
  if (all <= OF_ANSWER) return
  const most = [...found].sort(([, x], [, y]) => y.dates.length - x.dates.length)
  for (const [source, { dates }] of most) {
    if (all <= OF_ANSWER) return
    all -= dates.length - 1
    found.set(source, { dates: once(source, span, MUCH_HERE), steps: 0 })
  }
}

/** A series that is not unrolled stands there once, through all of the span that it reaches into. */
function once(source: ItemSource<Event>, { fromMs, toMs, viewer }: Span, tooOften: string): ClothItem[] {
  const whole = clothItem(null, source, viewer)
  if (!whole) return []
  const starts =
    whole.place.kind === 'timed'
      ? whole.place.startMs
      : whole.place.kind === 'all-day'
        ? Date.parse(whole.place.from)
        : fromMs
  if (starts >= toMs) return []
  const place = {
    kind: 'all-day' as const,
    from: dayAt(Math.max(fromMs, starts), viewer.zone),
    to: dayAt(toMs, viewer.zone),
  }
  return [Object.freeze({ ...whole, place, movable: false, fixedBecause: tooOften, tooOften })]
}

function unroll(source: ItemSource<Event>, original: string | undefined, span: Span): Unrolled {
  if (original === undefined) return { dates: [], steps: 0 }
  const { fromMs, toMs, viewer } = span
  const whole = clothItem(null, source, viewer)
  if (!whole) return { dates: [], steps: 0 }
  const budget = new UnrollBudget()
  const before = budget.steps
  const read = understand(() => {
    try {
      return occurrencesBetween(original, fromMs, toMs, viewer.zone, { budget })
    } catch (error) {
      if (error instanceof TooOften) return error
      throw error
    }
  })
  const steps = before - budget.steps
  // A series that cannot be unrolled still stands there with its first date.
  if (read.kind === 'not-understood') return { dates: [whole], steps }
  if (read.value instanceof TooOften) return { dates: once(source, span, read.value.message), steps }
  const dates = read.value.map(o =>
    Object.freeze({
      ...whole,
      key: `${source.id}@${o.recurrenceId}`,
      title: o.summary || whole.title,
      place: o.allDay
        ? { kind: 'all-day' as const, from: dayAt(o.startMs, viewer.zone), to: dayAt(o.endMs, viewer.zone) }
        : { kind: 'timed' as const, startMs: o.startMs, endMs: o.endMs },
    }),
  )
  return { dates, steps }
}
