import ICAL from 'ical.js'
import { isAsDescribed, NotUnderstood } from '../ical/ical-values.ts'
import { zoneNamed } from '../time/named-zone.ts'
import { epochOf, type When, zonedAt } from '../time/when.ts'

/**
 * The clock that a series tells its dates by: UTC, a zone that is known, one that only its file describes, or none. A
 * date is named by its RECURRENCE-ID in this clock (RFC 5545 §3.8.4.4), whatever clock a line of the file uses.
 */

/** Local seconds since 1970, as the clock on the wall shows them. */
export const secondsOf = (t: ICAL.Time): number =>
  Math.floor(new Date(0).setUTCFullYear(t.year, t.month - 1, t.day) / 1000) +
  t.hour * 3600 +
  t.minute * 60 +
  t.second
const isoOf = (seconds: number): string => new Date(seconds * 1000).toISOString().slice(0, 19)

/** How the local times of one event become instants. */
export interface Clock {
  allDay: boolean
  utc: boolean
  /** The zone, where it is one that others know too; the viewer's, of times without one. */
  zone: string | null
  epochOf: (seconds: number) => number
  /** Local seconds at an instant, epoch ms. */
  localAt: (epochMs: number) => number
  /** The local time of this event's clock at a time described by another, of which `tzid` names the zone. */
  localOf: (time: ICAL.Time, tzid?: string) => number
}

export function clockOf(start: ICAL.Time, tzid: string | undefined, viewer: string): Clock {
  const utc = start.zone === ICAL.Timezone.utcTimezone
  const known = tzid ? zoneNamed(tzid) : null
  const zone = utc ? 'UTC' : known && isAsDescribed(start, known) ? known : null
  // A zone of the file's own making is asked itself.
  const own = !zone && start.zone && start.zone !== ICAL.Timezone.localTimezone ? start.zone : null
  const epoch = (seconds: number): number => {
    const local = isoOf(seconds)
    if (start.isDate) return epochOf({ kind: 'date', date: local.slice(0, 10) }, viewer)
    if (!own) return epochOf({ kind: 'zoned', local, zone: zone ?? viewer }, viewer)
    const time = ICAL.Time.fromDateTimeString(local)
    time.zone = own
    return time.toJSDate().getTime()
  }
  const localAt = (instant: number): number => {
    if (own) return secondsOf(ICAL.Time.fromJSDate(new Date(instant), true).convertToZone(own))
    const local = zonedAt(instant, zone ?? viewer)
    return local.kind === 'zoned' ? Date.parse(`${local.local}Z`) / 1000 : 0
  }
  /** The instant of a time that is told by another clock than this; null where it is told by this one. */
  const elsewhere = (time: ICAL.Time, named: string | undefined): number | null => {
    if (time.zone === ICAL.Timezone.utcTimezone) return utc ? null : time.toJSDate().getTime()
    if (named === undefined || named === tzid) return null
    const other = zoneNamed(named)
    if (other && isAsDescribed(time, other))
      return epochOf({ kind: 'zoned', local: isoOf(secondsOf(time)), zone: other }, viewer)
    return time.zone && time.zone !== ICAL.Timezone.localTimezone ? time.toJSDate().getTime() : null
  }
  const localOf = (time: ICAL.Time, named?: string): number => {
    const instant = time.isDate || start.isDate ? null : elsewhere(time, named)
    return instant === null ? secondsOf(time) : localAt(instant)
  }
  return { allDay: start.isDate, utc, zone: own ? null : (zone ?? viewer), epochOf: epoch, localAt, localOf }
}

/** A date of the series by its name in this clock. */
export const nameIn = (clock: Clock, local: number): string =>
  clock.allDay ? isoOf(local).slice(0, 10) : `${isoOf(local)}${clock.utc ? 'Z' : ''}`

/** The clock of a series by its names of dates. Instants are epoch ms; dates and floating times are read in UTC. */
export interface SeriesClock {
  /** Of a time in a line of the file, of which `tzid` names the zone. */
  nameOf: (time: ICAL.Time, tzid?: string) => string
  nameAt: (epochMs: number) => string
  epochOf: (name: string) => number
  /** Only the file knows its zone. */
  isOwn: boolean
  /** As others understand it: in UTC where only the file knows the zone. */
  whenOf: (name: string) => When
}

const localOfName = (name: string): number =>
  Date.parse(name.length === 10 ? name : `${name.replace(/Z$/, '')}Z`) / 1000

/** Throws NotUnderstood. */
export function seriesClock(master: ICAL.Component): SeriesClock {
  const start = master.getFirstPropertyValue('dtstart')
  if (!(start instanceof ICAL.Time)) throw new NotUnderstood('Its start is not a date or a time.')
  const tzid = master.getFirstProperty('dtstart')?.getFirstParameter('tzid')
  const clock = clockOf(start, tzid, 'UTC')
  const isFloating = !tzid && !clock.utc
  return {
    nameOf: (time, named) => nameIn(clock, clock.localOf(time, named)),
    nameAt: epochMs => nameIn(clock, clock.localAt(epochMs)),
    epochOf: name => clock.epochOf(localOfName(name)),
    isOwn: clock.zone === null,
    whenOf(name) {
      if (clock.allDay) return { kind: 'date', date: name.slice(0, 10) }
      const local = name.replace(/Z$/, '')
      if (isFloating) return { kind: 'floating', local }
      return clock.zone === null
        ? zonedAt(clock.epochOf(localOfName(name)), 'UTC')
        : { kind: 'zoned', local, zone: clock.zone }
    },
  }
}
