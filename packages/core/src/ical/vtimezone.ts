import { Temporal } from 'temporal-polyfill'

/** `+0100` and the like (RFC 5545 §3.3.14). */
function utcOffset(seconds: number): string {
  const abs = Math.abs(seconds)
  const two = (n: number): string => String(n).padStart(2, '0')
  const rest = abs % 60 === 0 ? '' : two(abs % 60)
  return `${seconds < 0 ? '-' : '+'}${two(Math.floor(abs / 3600))}${two(Math.floor(abs / 60) % 60)}${rest}`
}

const basic = (at: Temporal.PlainDateTime): string =>
  at.toString({ smallestUnit: 'second' }).replace(/[-:]/g, '')

/** One change of a zone's offset. */
interface Transition {
  /** By the clock that held before it, as DTSTART of an observance is told. */
  local: Temporal.PlainDateTime
  /** Seconds from UTC. */
  before: number
  after: number
}

/** As far as is looked; zones without a rule are written out for so long. */
const YEARS = 40
/** A rule is believed if it holds for the last so many of them. */
const RULED_YEARS = 12

const secondsOf = (at: Temporal.ZonedDateTime): number => at.offsetNanoseconds / 1e9

function transitionsOf(from: Temporal.ZonedDateTime, years: number): Transition[] {
  const until = from.add({ years })
  const found: Transition[] = []
  let at: Temporal.ZonedDateTime | null = from
  while ((at = at.getTimeZoneTransition('next')) && Temporal.ZonedDateTime.compare(at, until) < 0) {
    const before = secondsOf(at.subtract({ nanoseconds: 1 }))
    const local = at.toInstant().toZonedDateTimeISO('UTC').toPlainDateTime().add({ seconds: before })
    found.push({ local, before, after: secondsOf(at) })
  }
  return found
}

const WEEKDAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU']

/** The yearly rule that names just these transitions, one for each year; null where there is none. */
function yearlyRule(each: readonly Transition[]): string | null {
  const [first] = each
  if (!first) return null
  const { month, dayOfWeek } = first.local
  const isAlike = each.every(
    (t, i) =>
      t.before === first.before &&
      t.after === first.after &&
      t.local.year === first.local.year + i &&
      t.local.month === month &&
      t.local.dayOfWeek === dayOfWeek &&
      t.local.toPlainTime().equals(first.local.toPlainTime()),
  )
  if (!isAlike) return null
  const day = WEEKDAYS[dayOfWeek - 1] ?? 'SU'
  const inMonth = `FREQ=YEARLY;BYMONTH=${month}`
  if (each.every(t => t.local.day + 7 > t.local.daysInMonth)) return `${inMonth};BYDAY=-1${day}`
  const days = each.map(t => t.local.day)
  const [least, most] = [Math.min(...days), Math.max(...days)]
  if (Math.ceil(least / 7) === Math.ceil(most / 7)) return `${inMonth};BYDAY=${Math.ceil(least / 7)}${day}`
  // The Friday before the last Sunday, and the like: seven days, of which one is that weekday.
  if (most - least !== 6) return null
  const window = Array.from({ length: 7 }, (_, i) => least + i)
  return `${inMonth};BYDAY=${day};BYMONTHDAY=${window.join(',')}`
}

function observance({ local, before, after }: Transition, rule: string | null): string[] {
  const name = after > before ? 'DAYLIGHT' : 'STANDARD'
  return [
    `BEGIN:${name}`,
    `DTSTART:${basic(local)}`,
    `TZOFFSETFROM:${utcOffset(before)}`,
    `TZOFFSETTO:${utcOffset(after)}`,
    ...(rule ? [`RRULE:${rule}`] : []),
    `END:${name}`,
  ]
}

/** Two changes a year by yearly rules, from some year on to the end; null where a zone has other ways. */
function ruled(all: readonly Transition[], lastYear: number): string[] | null {
  const goesOn = (all.at(-1)?.local.year ?? 0) >= lastYear
  for (let start = 0; goesOn && start <= all.length - 2 * RULED_YEARS; start++) {
    const later = all.slice(start)
    const [one, other] = [0, 1].map(of => yearlyRule(later.filter((_, i) => i % 2 === of)))
    if (one && other && later[0] && later[1])
      return [
        ...all.slice(0, start).flatMap(t => observance(t, null)),
        ...observance(later[0], one),
        ...observance(later[1], other),
      ]
  }
  return null
}

const written = new Map<string, string>()
const MOST_WRITTEN = 500

/**
 * A VTIMEZONE (RFC 5545 §3.6.5) for an IANA zone, right from the year before `epochMs` on for as long as a series may
 * last: by yearly rules, or with each change written out where the zone follows none.
 */
export function vtimezone(zone: string, epochMs: number): string {
  const { year } = Temporal.Instant.fromEpochMilliseconds(epochMs).toZonedDateTimeISO(zone)
  const key = `${zone} ${year}`
  const known = written.get(key)
  if (known !== undefined) return known
  const from = Temporal.PlainDateTime.from({ year: year - 1, month: 1, day: 1 }).toZonedDateTime(zone)
  const seconds = secondsOf(from)
  const all = transitionsOf(from, YEARS)
  const changes = ruled(all, from.year + YEARS - 1) ?? all.flatMap(t => observance(t, null))
  const lines = [
    'BEGIN:VTIMEZONE',
    `TZID:${zone}`,
    ...observance({ local: from.toPlainDateTime(), before: seconds, after: seconds }, null),
    ...changes,
    'END:VTIMEZONE',
  ]
  const text = lines.map(l => `${l}\r\n`).join('')
  if (written.size >= MOST_WRITTEN) written.clear()
  written.set(key, text)
  return text
}
