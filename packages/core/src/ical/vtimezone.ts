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

/**
 * A VTIMEZONE (RFC 5545 §3.6.5) for an IANA zone, exact for the year around `epochMs` and the two after
 * it. Each observance is written out instead of guessed as a yearly rule.
 */
export function vtimezone(zone: string, epochMs: number): string {
  const from = Temporal.Instant.fromEpochMilliseconds(epochMs).toZonedDateTimeISO(zone).subtract({ years: 1 })
  const until = from.add({ years: 4 })
  const seconds = (at: Temporal.ZonedDateTime): number => at.offsetNanoseconds / 1e9
  const observance = (start: Temporal.PlainDateTime, before: number, after: number): string[] => {
    const name = after > before ? 'DAYLIGHT' : 'STANDARD'
    return [
      `BEGIN:${name}`,
      `DTSTART:${basic(start)}`,
      `TZOFFSETFROM:${utcOffset(before)}`,
      `TZOFFSETTO:${utcOffset(after)}`,
      `END:${name}`,
    ]
  }
  const lines = ['BEGIN:VTIMEZONE', `TZID:${zone}`]
  lines.push(...observance(from.toPlainDateTime(), seconds(from), seconds(from)))
  let at: Temporal.ZonedDateTime | null = from
  while ((at = at.getTimeZoneTransition('next')) && Temporal.ZonedDateTime.compare(at, until) < 0) {
    const before = seconds(at.subtract({ nanoseconds: 1 }))
    // DTSTART of an observance is told in the offset that held before it.
    const local = at.toInstant().toZonedDateTimeISO('UTC').toPlainDateTime().add({ seconds: before })
    lines.push(...observance(local, before, seconds(at)))
  }
  lines.push('END:VTIMEZONE')
  return lines.map(l => `${l}\r\n`).join('')
}
