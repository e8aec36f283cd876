import ICAL from 'ical.js'
import { parseCalendar } from '../ical/ical-values.ts'
import { eventIn, masterOf } from '../ical/vevent.ts'
import type { Event } from '../items/items.ts'
import { occurrencesBetween } from './occurrences.ts'
import { seriesClock } from './series-clock.ts'
import { epochOf, MINUTE, type When, zonedAt } from '../time/when.ts'

/** One date of a series, as an event of its own. */
export interface SeriesDate {
  /** Its RECURRENCE-ID in the series' own clock (RFC 5545 §3.8.4.4). */
  occurrence: string
  event: Event
}

/**
 * The dates of the series in `text` between two epoch ms, and all overridden dates wherever they are, each with
 * its own values. `zone` is used for dates and floating times. Throws NotUnderstood.
 */
export function datesOfSeries(text: string, fromMs: number, toMs: number, zone: string): SeriesDate[] {
  const calendar = parseCalendar(text)
  const master = masterOf(calendar)
  const series = eventIn(master)
  const { anchor, minutes } = series.time
  const clock = seriesClock(master)
  const own = new Map<string, Event>()
  for (const other of calendar.getAllSubcomponents('vevent')) {
    const id = other.getFirstPropertyValue('recurrence-id')
    const named = other.getFirstProperty('recurrence-id')
    const onward = named?.getFirstParameter('range') === 'THISANDFUTURE'
    if (other !== master && id instanceof ICAL.Time && !onward)
      own.set(clock.nameOf(id, named?.getFirstParameter('tzid')), eventIn(other))
  }
  // What an override put far away is still a date of this span, by its name.
  const starts = [...own.values()].map(e => epochOf(e.time.anchor, zone))
  const all = occurrencesBetween(
    text,
    Math.min(fromMs, ...starts),
    Math.max(toMs, ...starts.map(ms => ms + 1)),
    zone,
  )
  const between = all.filter(o => own.has(o.recurrenceId) || (o.startMs < toMs && o.endMs > fromMs))
  return between.map(o => {
    const said = own.get(o.recurrenceId)
    const start = clock.whenOf(o.recurrenceId)
    // An override that is for later dates too puts them elsewhere than the rule does.
    const time =
      said?.time ??
      (epochOf(start, zone) === o.startMs
        ? { anchor: start, minutes }
        : {
            anchor: inClockOf(anchor, o.startMs, zone),
            minutes: (o.endMs - o.startMs) / MINUTE,
          })
    return {
      occurrence: o.recurrenceId,
      event: {
        ...(said ?? series),
        uid: `${series.uid}/${o.recurrenceId}`,
        summary: said?.summary ?? o.summary,
        time,
        created: series.created,
        recurring: false,
      },
    }
  })
}

/** An instant as the series tells its own times. */
function inClockOf(anchor: When, ms: number, zone: string): When {
  const local = zonedAt(ms, anchor.kind === 'zoned' ? anchor.zone : zone)
  if (local.kind !== 'zoned' || anchor.kind === 'zoned') return local
  return anchor.kind === 'date'
    ? { kind: 'date', date: local.local.slice(0, 10) }
    : { kind: 'floating', local: local.local }
}

const DAY_MS = 86_400_000

/** One date of a series by its name; null where the series does not have it. Throws NotUnderstood. */
export function seriesDate(text: string, occurrence: string): SeriesDate | null {
  const at = Date.parse(occurrence.length === 10 ? occurrence : `${occurrence.replace(/Z$/, '')}Z`)
  return (
    datesOfSeries(text, at - 2 * DAY_MS, at + 2 * DAY_MS, 'UTC').find(d => d.occurrence === occurrence) ??
    null
  )
}
