import { datesOfSeries, type SeriesDate } from '../../recurrence/dates-of-series.ts'
import { observe, type Looked } from '../merge/observe.ts'
import type { Mirror } from '../model/types.ts'

/**
 * A series is paired date by date. Each date within reach has a mirror of its own, and rules plan it like any
 * event. This file decides what these mirrors say after the series was read again.
 */

export interface DateMirror {
  /** RECURRENCE-ID in the series' own clock. */
  occurrence: string
  mirror: Mirror
}

export interface Reach {
  /** Epoch ms. */
  fromMs: number
  toMs: number
  /** For dates and floating times. */
  zone: string
}

export interface Unrolled {
  /** Dates that are new or have changed, and whether an edit caused it. */
  put: (DateMirror & { changed: boolean })[]
  /** Mirrors of dates that no longer are. */
  gone: string[]
}

/** More dates than these within reach are left where they stand. */
export const MOST_DATES = 1200

const DAY_MS = 86_400_000
/** A series counts as moved up to this distance; beyond it, its dates are other dates. */
const MOST_SHIFT_MS = 7 * DAY_MS
/** Spans that are tried; the true one is among the least. */
const MOST_SPANS = 8

/**
 * `held` are all mirrors the series had so far, gone ones too. `revisionOf` makes a revision of what a date says;
 * `idFor` an id of a name. Null where the series cannot be unrolled. Throws NotUnderstood.
 */
export function unroll(
  series: Mirror,
  original: string,
  held: readonly DateMirror[],
  reach: Reach,
  looked: Looked,
  { idFor, revisionOf }: { idFor: (name: string) => string; revisionOf: (text: string) => string },
): Unrolled | null {
  const there = held.filter(h => h.mirror.presence !== 'gone')
  const none = { put: [], gone: there.map(h => h.mirror.id) }
  if (series.presence === 'gone' || series.item.kind !== 'event' || !series.item.recurring) return none
  if (series.presence !== 'present') {
    const { presence } = series
    const other = there.filter(h => h.mirror.presence !== presence)
    return { put: other.map(h => ({ ...h, mirror: { ...h.mirror, presence }, changed: true })), gone: [] }
  }
  // What lies before or beyond the reach keeps its mirror as long as the series has that date.
  const spans = there.flatMap(h => Object.values(spanOf(h)))
  const from = Math.min(reach.fromMs - 2 * DAY_MS, ...spans)
  const to = Math.max(reach.toMs + 2 * DAY_MS, ...spans)
  const all = datesOfSeries(original, from, to, reach.zone)
  if (all.length > MOST_DATES) return null
  const known = new Map(held.map(h => [h.occurrence, h]))
  const names = new Set(all.map(d => d.occurrence))
  const left = there.filter(h => !names.has(h.occurrence))
  const moved = shifted(
    left,
    all.filter(d => !known.has(d.occurrence)),
  )
  const dates = all.filter(
    d => known.has(d.occurrence) || moved.has(d.occurrence) || isWithin(d.occurrence, reach),
  )
  const ids = new Set(held.map(h => h.mirror.id))
  const freshId = (occurrence: string): string => {
    let id = idFor(`date ${series.id} ${occurrence}`)
    while (ids.has(id)) id = idFor(id)
    ids.add(id)
    return id
  }
  const put = dates.flatMap(({ occurrence, event }) => {
    const before = known.get(occurrence)?.mirror ?? moved.get(occurrence)?.mirror ?? null
    const { lastModified: _, ...says } = event
    const sighting = {
      remoteId: before?.remoteId ?? '',
      collectionId: series.collectionId,
      revision: revisionOf(JSON.stringify([series.collectionId, says])),
      item: event,
    }
    const seen = observe(before, sighting, looked, before?.id ?? freshId(occurrence))
    if (seen.kind === 'same')
      return moved.has(occurrence) && before ? [{ occurrence, mirror: before, changed: false }] : []
    // A date came with its series, whenever it comes within reach.
    const { firstSeenAt, arrivedAt } = before ? seen.mirror : series
    const mirror = { ...seen.mirror, remoteId: `date:${seen.mirror.id}`, firstSeenAt, arrivedAt }
    return [{ occurrence, mirror, changed: seen.kind === 'changed' }]
  })
  const kept = new Set([...moved.values()].map(h => h.mirror.id))
  return { put, gone: left.map(h => h.mirror.id).filter(id => !kept.has(id)) }
}

const localMs = (occurrence: string): number =>
  Date.parse(occurrence.length === 10 ? occurrence : `${occurrence.replace(/Z$/, '')}Z`)

/** Where a date would be by its name, to within a day. */
const spanOf = ({ occurrence }: DateMirror): [number, number] => [
  localMs(occurrence) - DAY_MS,
  localMs(occurrence) + DAY_MS,
]

const isWithin = (occurrence: string, { fromMs, toMs }: Reach): boolean =>
  localMs(occurrence) >= fromMs && localMs(occurrence) < toMs

/**
 * The whole series moved by one span: each date stays the same date under a new name. Returns which new name
 * replaces which mirror; empty if it was no such move.
 */
function shifted(left: readonly DateMirror[], fresh: readonly SeriesDate[]): Map<string, DateMirror> {
  const names = new Map(fresh.map(d => [localMs(d.occurrence), d.occurrence]))
  const [one, two] = [...left].sort((x, y) => localMs(x.occurrence) - localMs(y.occurrence))
  // A rhythm fits itself at many spans: it was moved by the least of them.
  const spans = [one, two]
    .flatMap(h => (h ? [...names.keys()].map(at => at - localMs(h.occurrence)) : []))
    .filter(by => Math.abs(by) <= MOST_SHIFT_MS)
    .sort((x, y) => Math.abs(x) - Math.abs(y))
    .slice(0, MOST_SPANS)
  let best = new Map<string, DateMirror>()
  for (const by of spans) {
    const pairs = left.flatMap(h => {
      const name = names.get(localMs(h.occurrence) + by)
      return name === undefined ? [] : [[name, h] as const]
    })
    if (pairs.length > best.size) best = new Map(pairs)
  }
  return best.size * 5 >= left.length * 4 ? best : new Map()
}
