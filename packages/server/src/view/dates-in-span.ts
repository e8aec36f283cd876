import {
  clothItem,
  type ClothItem,
  dayAt,
  type Event,
  type ItemSource,
  NotUnderstood,
  occurrencesBetween,
  type Viewer,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { chunks } from '../data/chunks.ts'

/** The dates of series, unrolled once for each span for as long as a series is the same. */

const unrolled = new WeakMap<ItemSource<Event>, Map<string, ClothItem[]>>()
/** Of one series; whoever leafs on lets go of the oldest. */
const MOST_SPANS = 12

/** The dates of each series between two instants, epoch ms. */
export async function datesInSpan(
  sql: Sql,
  series: readonly ItemSource<Event>[],
  fromMs: number,
  toMs: number,
  viewer: Viewer,
): Promise<[ItemSource<Event>, ClothItem[]][]> {
  const span = [fromMs, toMs, viewer.zone, viewer.defaultMinutes].join(' ')
  const found = series.map((source): [ItemSource<Event>, ClothItem[] | undefined] => [
    source,
    unrolled.get(source)?.get(span),
  ])
  const originals = new Map<string, string>()
  const wanting = found.filter(([, dates]) => !dates).map(([source]) => source.id)
  for (const part of chunks(wanting))
    for (const row of await sql.rows<{ mirror_id: string; original: string }>(
      'SELECT mirror_id, original FROM payloads WHERE mirror_id IN (:part)',
      { part },
    ))
      originals.set(row.mirror_id, row.original)
  return found.map(([source, known]) => {
    if (known) return [source, known]
    const original = originals.get(source.id)
    if (original === undefined) return [source, []]
    const dates = occurrences(source, original, fromMs, toMs, viewer)
    const spans = unrolled.get(source) ?? new Map<string, ClothItem[]>()
    unrolled.set(source, spans.set(span, dates))
    const [oldest] = spans.keys()
    if (oldest !== undefined && spans.size > MOST_SPANS) spans.delete(oldest)
    return [source, dates]
  })
}

function occurrences(
  source: ItemSource<Event>,
  original: string,
  fromMs: number,
  toMs: number,
  viewer: Viewer,
): ClothItem[] {
  const whole = clothItem(null, source, viewer)
  if (!whole) return []
  try {
    return occurrencesBetween(original, fromMs, toMs, viewer.zone).map(o =>
      Object.freeze({
        ...whole,
        key: `${source.id}@${o.recurrenceId}`,
        title: o.summary || whole.title,
        place: o.allDay
          ? { kind: 'all-day' as const, from: dayAt(o.startMs, viewer.zone), to: dayAt(o.endMs, viewer.zone) }
          : { kind: 'timed' as const, startMs: o.startMs, endMs: o.endMs },
      }),
    )
  } catch (error) {
    // A series that cannot be unrolled still stands there with its first date.
    if (error instanceof NotUnderstood) return [whole]
    throw error
  }
}
