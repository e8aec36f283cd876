import ICAL from 'ical.js'
import { zoneNamed } from '../time/named-zone.ts'
import { epochOf, type When } from '../time/when.ts'
import { componentsNamed, type ContentLine, parseLines, propertiesOf } from './content-lines.ts'
import { NotUnderstood, understoodOr } from './not-understood.ts'
import { parseWithZones } from './known-zones.ts'
import { vtimezone } from './vtimezone.ts'

/** How values are read from, and written as, iCalendar (RFC 5545 §3.3); for events and tasks alike. */

export { NotUnderstood }

const MAX_TEXT = 1_000_000

export function parseCalendar(text: string): ICAL.Component {
  if (text.length > MAX_TEXT) throw new NotUnderstood('It is larger than 1 MB.')
  try {
    const parsed = new ICAL.Component(parseWithZones(text))
    if (parsed.name !== 'vcalendar') throw new NotUnderstood('It is not an iCalendar object.')
    return parsed
  } catch (error) {
    if (error instanceof NotUnderstood) throw error
    throw new NotUnderstood(`It is not readable as iCalendar: ${error instanceof Error ? error.message : ''}`)
  }
}

/** Verdicts on descriptions of zones by their text, name and year: files of one program say the same again and again. */
const verdicts = new Map<string, boolean>()
const MOST_VERDICTS = 2_000

/** Whether the file's VTIMEZONE and our data agree at noon of a day; they may differ in the hours that come twice. */
function agreeOn(day: string, zone: ICAL.Timezone, tzid: string): boolean {
  const local = `${day}T12:00:00`
  const noon = ICAL.Time.fromDateTimeString(local)
  noon.zone = zone
  return noon.toUnixTime() * 1000 === epochOf({ kind: 'zoned', local, zone: tzid }, 'UTC')
}

/** Told once for each description: a file with many dates names the same zone for each. */
const zoneTexts = new WeakMap<object, string>()
function textOfZone({ jCal }: ICAL.Component): string {
  const known = zoneTexts.get(jCal)
  if (known !== undefined) return known
  const text = JSON.stringify(jCal)
  zoneTexts.set(jCal, text)
  return text
}

/**
 * Whether the file's own VTIMEZONE gives the same times as our data in the year of `time`. If not, the file is
 * right about itself (RFC 5545 §3.6.5). Many programs describe that year only, so later years prove nothing.
 */
export function isAsDescribed(time: ICAL.Time, tzid: string): boolean {
  const { zone, year } = time
  if (!zone?.component) return true
  const key = `${tzid} ${year} ${textOfZone(zone.component)}`
  const known = verdicts.get(key)
  if (known !== undefined) return known
  const months = Array.from(
    { length: 12 },
    (_, i) => `${String(year).padStart(4, '0')}-${String(i + 1).padStart(2, '0')}`,
  )
  const same = months.every(m => agreeOn(`${m}-01`, zone, tzid) && agreeOn(`${m}-15`, zone, tzid))
  if (verdicts.size >= MOST_VERDICTS) verdicts.clear()
  verdicts.set(key, same)
  return same
}

export const timesOf = (component: ICAL.Component, name: string): ICAL.Time[] =>
  component
    .getAllProperties(name)
    .flatMap(p => p.getValues() as unknown[])
    .map(v => (v instanceof ICAL.Period ? v.start : v))
    .filter((v): v is ICAL.Time => v instanceof ICAL.Time)

export function whenOf(prop: ICAL.Property): When {
  const time = prop.getFirstValue()
  if (!(time instanceof ICAL.Time)) throw new NotUnderstood('Its start is not a date or a time.')
  const iso = time.toString().replace(/Z$/, '')
  if (!/^\d{4}-\d\d-\d\d/.test(iso)) throw new NotUnderstood('Its start is not a date or a time.')
  if (time.isDate) return { kind: 'date', date: iso.slice(0, 10) }
  if (time.zone === ICAL.Timezone.utcTimezone) return { kind: 'zoned', local: iso, zone: 'UTC' }
  const tzid = prop.getFirstParameter('tzid')
  if (!tzid) return { kind: 'floating', local: iso }
  const zone = zoneNamed(tzid)
  if (zone && (isAsDescribed(time, zone) || (time.zone && agreeOn(iso.slice(0, 10), time.zone, zone))))
    return { kind: 'zoned', local: iso, zone }
  if (time.zone === ICAL.Timezone.localTimezone)
    throw new NotUnderstood(`Its time zone, ${tzid}, is not known and not described in the event.`)
  // A zone of the file's own making: only its instants can be told to others.
  const utc = new Date(time.toJSDate()).toISOString().slice(0, 19)
  return { kind: 'zoned', local: utc, zone: 'UTC' }
}

export const stringOf = (c: ICAL.Component, name: string): string =>
  String(c.getFirstPropertyValue(name) ?? '')

const UTC_TIME = /^(?!0000)\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ$/

/** When something was created, changed or completed; null also if unreadable, because nothing else depends on it. */
export function instantOf(c: ICAL.Component, name: string): string | null {
  return understoodOr(() => {
    const property = c.getFirstProperty(name)
    // Nearly all are told in UTC, and need none of what a time with a zone needs.
    const [, , type, said] = (property?.jCal ?? []) as unknown[]
    if (type === 'date-time' && typeof said === 'string' && UTC_TIME.test(said)) {
      const ms = Date.parse(said)
      if (!Number.isNaN(ms)) return new Date(ms).toISOString()
    }
    const time = property?.getFirstValue()
    const at = time instanceof ICAL.Time ? time.toJSDate() : null
    return at && at.getUTCFullYear() >= 1 && at.getUTCFullYear() <= 9999 ? at.toISOString() : null
  }, null)
}

export function oneOf<T extends string>(value: string, known: readonly T[], otherwise: T): T {
  return known.find(k => k === value.toLowerCase()) ?? otherwise
}

export const basicUtc = (epochMs: number): string =>
  new Date(epochMs)
    .toISOString()
    .replace(/[-:]/g, '')
    .replace(/\.\d+Z$/, 'Z')

/** Parameters and value of DTSTART or DTEND. */
export function dateProperty(when: When): { params: string; value: string } {
  if (when.kind === 'date') return { params: ';VALUE=DATE', value: when.date.replace(/-/g, '') }
  const value = when.local.replace(/[-:]/g, '')
  if (when.kind === 'floating') return { params: '', value }
  return when.zone === 'UTC' ? { params: '', value: `${value}Z` } : { params: `;TZID=${when.zone}`, value }
}

function hasZone(lines: readonly ContentLine[], tzid: string): boolean {
  return componentsNamed(lines, 'VTIMEZONE').some(range =>
    propertiesOf(lines, range, 'TZID').some(i => lines[i]?.value === tzid),
  )
}

/** The file with a VTIMEZONE for the zone of `when`, if it needs one and has none. */
export function withZone(lines: ContentLine[], when: When): ContentLine[] {
  if (when.kind !== 'zoned' || when.zone === 'UTC' || hasZone(lines, when.zone)) return lines
  const at = lines.findIndex(l => l.name === 'BEGIN' && /^(VEVENT|VTODO)$/i.test(l.value.trim()))
  const made = parseLines(vtimezone(when.zone, epochOf(when, 'UTC')))
  return at === -1 ? lines : [...lines.slice(0, at), ...made, ...lines.slice(at)]
}
