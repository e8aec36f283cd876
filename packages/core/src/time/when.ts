import { Temporal } from 'temporal-polyfill'
import { z } from 'zod'

/**
 * A point on the calendar as its author meant it. `local` is ISO 8601 without offset, to the second.
 * Floating times (RFC 5545 §3.3.5, form 1) take the zone of the collection they are read in.
 */
const CalendarDate = z.string().refine(isDate, 'is not a day of the calendar')
const LocalTime = z.string().refine(isLocalTime, 'is not a date and time')
export const When = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('date'), date: CalendarDate }),
  z.object({
    kind: z.literal('zoned'),
    local: LocalTime,
    zone: z.string().max(64).refine(isKnownZone, 'is not a time zone that is known'),
  }),
  z.object({ kind: z.literal('floating'), local: LocalTime }),
])
export type When = z.infer<typeof When>

export const MINUTE = 60_000
export const DAY_MINUTES = 1440

export const onDate = (date: string): When => ({ kind: 'date', date })
export const zoned = (local: string, zone: string): When => ({ kind: 'zoned', local, zone })

/** `YYYY-MM-DD` of a day there is, in the years 1 to 9999. */
export function isDate(text: string): boolean {
  const m = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text)
  if (!m || m[1] === '0000') return false
  const [month, day] = [Number(m[2]), Number(m[3])]
  if (day >= 1 && day <= 28) return month >= 1 && month <= 12
  const at = Date.parse(`${text}T00:00:00Z`)
  return !Number.isNaN(at) && new Date(at).getUTCDate() === day
}

/** `YYYY-MM-DDThh:mm` or with seconds; a leap second is one (RFC 5545 §3.3.12). */
function isLocalTime(text: string): boolean {
  return isDate(text.slice(0, 10)) && /^T([01]\d|2[0-3]):[0-5]\d(:([0-5]\d|60))?$/.test(text.slice(10))
}

const zones = new Map<string, boolean>()
const MOST_ZONES = 2_000

/** Whether the machine's zone data knows this name. */
export function isKnownZone(zone: string): boolean {
  const known = zones.get(zone)
  if (known !== undefined) return known
  let isZone = true
  try {
    Temporal.Now.zonedDateTimeISO(zone)
  } catch {
    isZone = false
  }
  if (zones.size >= MOST_ZONES) zones.clear()
  zones.set(zone, isZone)
  return isZone
}

const DAY_MS = DAY_MINUTES * MINUTE

/** Between two changes of a zone's clock: local times, ms as if they were UTC, and their offset. */
interface SteadySpan {
  from: number
  to: number
  offset: number
}
const steady = new Map<string, SteadySpan[]>()
const MOST_SPANS = 500

/** The offset from UTC, ms, of a local time (ms as if it were UTC); null within a day of a change of the clock. */
function steadyOffset(plain: number, zone: string): number | null {
  const known = steady.get(zone) ?? []
  for (const { from, to, offset } of known) {
    if (from + DAY_MS < plain && plain < to - DAY_MS) return offset
    if (Math.abs(plain - from) <= DAY_MS || Math.abs(plain - to) <= DAY_MS) return null
  }
  const about = Temporal.Instant.fromEpochMilliseconds(plain).toZonedDateTimeISO(zone)
  const offset = about.offsetNanoseconds / 1e6
  // A change at this very instant has been made by then; of the changes before an instant it is none.
  const before = about.add({ milliseconds: 1 }).getTimeZoneTransition('previous')
  const after = about.getTimeZoneTransition('next')
  const from = (before?.epochMilliseconds ?? -Infinity) + offset
  const to = (after?.epochMilliseconds ?? Infinity) + offset
  if (known.length === 0 && steady.size >= MOST_ZONES) steady.clear()
  steady.set(zone, [{ from, to, offset }, ...known.slice(0, MOST_SPANS - 1)])
  return from + DAY_MS < plain && plain < to - DAY_MS ? offset : null
}

/**
 * Epoch milliseconds of `when`; a date is the start of that day in `zone`. A local time inside a
 * daylight-saving gap is read as RFC 5545 §3.3.5 says: with the offset before the gap.
 */
export function epochOf(when: When, zone: string): number {
  const at = when.kind === 'zoned' ? when.zone : zone
  const local = when.kind === 'date' ? `${when.date}T00:00:00` : when.local
  const isPlain = /^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d)?$/.test(local) && isDate(local.slice(0, 10))
  const plain = isPlain ? Date.parse(`${local}Z`) : NaN
  const offset = Number.isNaN(plain) ? null : steadyOffset(plain, at)
  if (offset !== null) return plain - offset
  if (when.kind === 'date') return Temporal.PlainDate.from(when.date).toZonedDateTime(zone).epochMilliseconds
  return Temporal.PlainDateTime.from(when.local).toZonedDateTime(at, { disambiguation: 'compatible' })
    .epochMilliseconds
}

/** The wall-clock time at `epochMs` in `zone`. */
export function zonedAt(epochMs: number, zone: string): When {
  const local = Temporal.Instant.fromEpochMilliseconds(epochMs).toZonedDateTimeISO(zone).toPlainDateTime()
  return zoned(local.toString({ smallestUnit: 'second' }), zone)
}

/** The calendar day, `YYYY-MM-DD`, of `when` in `zone`. */
export function dayOf(when: When, zone: string): string {
  if (when.kind === 'date') return when.date
  if (when.kind === 'floating' || when.zone === zone) return when.local.slice(0, 10)
  return dayAt(epochOf(when, zone), zone)
}

/** Days by zone and quarter of an hour: no clock is set at any other minute than these. */
const days = new Map<string, string>()
const MOST_DAYS = 20_000
const QUARTER_MS = 15 * MINUTE
/** Before this there were offsets with odd minutes. */
const EVEN_SINCE = Date.UTC(1973, 0)

export function dayAt(epochMs: number, zone: string): string {
  if (epochMs < EVEN_SINCE) return readDay(epochMs, zone)
  const key = `${Math.floor(epochMs / QUARTER_MS)} ${zone}`
  const known = days.get(key)
  if (known !== undefined) return known
  const day = readDay(epochMs, zone)
  if (days.size >= MOST_DAYS) days.clear()
  days.set(key, day)
  return day
}

function readDay(epochMs: number, zone: string): string {
  return Temporal.Instant.fromEpochMilliseconds(epochMs).toZonedDateTimeISO(zone).toPlainDate().toString()
}

/** `days` whole calendar days later. */
export function addDays(date: string, days: number): string {
  return Temporal.PlainDate.from(date).add({ days }).toString()
}

/** Whole calendar days from `from` to `to`; negative when `to` is earlier. */
export function daysBetween(from: string, to: string): number {
  return Temporal.PlainDate.from(from).until(Temporal.PlainDate.from(to), { largestUnit: 'day' }).days
}

/** Monday is 1, Sunday is 7 (ISO 8601). */
export const weekdayOf = (date: string): number => Temporal.PlainDate.from(date).dayOfWeek

/** The Monday on or before `date`. */
export const mondayOf = (date: string): string => addDays(date, 1 - weekdayOf(date))

export const isoWeekOf = (date: string): number => Temporal.PlainDate.from(date).weekOfYear ?? 0

export function sameWhen(x: When | null, y: When | null): boolean {
  return JSON.stringify(x) === JSON.stringify(y)
}

/** The same instant told in another zone; a date stays a date. */
export function inZone(when: When, zone: string, floatingZone: string): When {
  if (when.kind === 'date' || (when.kind === 'zoned' && when.zone === zone)) return when
  return zonedAt(epochOf(when, floatingZone), zone)
}

/** The same wall-clock time without its seconds, as a service of minute precision would keep it. */
export function toMinute(when: When): When {
  return when.kind === 'date' ? when : { ...when, local: `${when.local.slice(0, 16)}:00` }
}
