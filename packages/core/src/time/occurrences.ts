import ICAL from 'ical.js'
import { parseCalendar } from '../formats/ical-values.ts'
import { masterOf } from '../formats/vevent.ts'
import { DAY_MINUTES, epochOf, isKnownZone, MINUTE } from './when.ts'

/** One occurrence of a series (RFC 5545 §3.8.5). */
export interface Occurrence {
  startMs: number
  endMs: number
  allDay: boolean
  summary: string
  /** Of the occurrence before any override, as in RECURRENCE-ID. */
  recurrenceId: string
}

/** A rule may name more dates than anybody could want; nobody else waits for it. */
const MAX_STEPS = 20_000
/** An override may lie this much earlier than the occurrence it replaces and still be found. */
const OVERRIDE_REACH = 31 * DAY_MINUTES * MINUTE

/** Epoch milliseconds, by our own zone data where the zone has an IANA name. */
function epochIn(time: ICAL.Time, zone: string): number {
  const local = time.toString().replace(/Z$/, '')
  if (time.isDate) return epochOf({ kind: 'date', date: local }, zone)
  if (time.zone === ICAL.Timezone.utcTimezone) return epochOf({ kind: 'zoned', local, zone: 'UTC' }, zone)
  const tzid = time.zone?.tzid
  if (!time.zone || time.zone === ICAL.Timezone.localTimezone)
    return epochOf({ kind: 'floating', local }, zone)
  return tzid && isKnownZone(tzid)
    ? epochOf({ kind: 'zoned', local, zone: tzid }, zone)
    : time.toJSDate().getTime()
}

/**
 * The occurrences of the series in `text` that overlap [fromMs, toMs), overrides and EXDATE applied.
 * `zone` is the one for dates and floating times. Throws NotUnderstood.
 */
export function occurrencesBetween(text: string, fromMs: number, toMs: number, zone: string): Occurrence[] {
  const calendar = parseCalendar(text)
  const master = masterOf(calendar)
  const event = new ICAL.Event(master, {
    exceptions: calendar.getAllSubcomponents('vevent').filter(c => c !== master),
  })
  const tzid = master.getFirstProperty('dtstart')?.getFirstParameter('tzid')
  const home = tzid && isKnownZone(tzid) ? tzid : zone
  const found: Occurrence[] = []
  const iterator = event.iterator()
  for (let step = 0; step < MAX_STEPS; step++) {
    const next = iterator.next()
    if (!next || epochIn(next, home) >= toMs + OVERRIDE_REACH) break
    const { startDate, endDate, item } = event.getOccurrenceDetails(next)
    const allDay = startDate.isDate
    const startMs = epochIn(startDate, allDay ? zone : home)
    const endMs = epochIn(endDate, allDay ? zone : home)
    if (startMs < toMs && (endMs > fromMs || startMs >= fromMs))
      found.push({ startMs, endMs, allDay, summary: item.summary ?? '', recurrenceId: next.toString() })
  }
  return found
}
