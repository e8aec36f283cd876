import { durationMinutes } from '../time/duration.ts'
import { type ContentLine, componentsNamed, parseLines, propertiesOf, textOf } from '../ical/content-lines.ts'

/** One calendar object out of a file that holds many: everything with one UID, and the zones it names. */
export interface FeedPart {
  uid: string
  kind: 'event' | 'task'
  text: string
}

export interface Feed {
  /** NAME (RFC 7986 §5.1) or the older name for it. */
  name: string | null
  /** REFRESH-INTERVAL (RFC 7986 §5.7), ms. */
  refreshMs: number | null
  parts: FeedPart[]
  /** Components without a UID, or beyond what is sensible. */
  leftOut: number
}

const MAX_PARTS = 200_000
/** A zone stands in every part that names it: one longer than any is left out, and so are all once that is much. */
const MOST_ZONE_TEXT = 60_000
const MOST_REPEATED = 80_000_000

const durationMs = (value: string): number | null => (durationMinutes(value) ?? 0) * 60_000 || null

/** Takes an iCalendar file apart without changing a byte of any component. Null when it is none. */
export function splitCalendar(text: string): Feed | null {
  const lines = parseLines(text.replace(/^\uFEFF/, ''))
  const calendars = componentsNamed(lines, 'VCALENDAR')
  const [calendar] = calendars
  if (!calendar) return null
  const own = (name: string): ContentLine | undefined => lines[propertiesOf(lines, calendar, name)[0] ?? -1]
  const zones = new Map<string, { lines: ContentLine[]; length: number }>()
  for (const z of componentsNamed(lines, 'VTIMEZONE')) {
    const tzid = lines[propertiesOf(lines, z, 'TZID')[0] ?? -1]?.value
    const own = lines.slice(z.begin, z.end + 1)
    const length = own.reduce((n, l) => n + l.raw.length, 0)
    if (tzid && length <= MOST_ZONE_TEXT) zones.set(tzid, { lines: own, length })
  }
  const method = own('METHOD')
  const head = lines
    .slice(
      calendar.begin,
      lines.findIndex((l, i) => i > calendar.begin && (l.name === 'BEGIN' || l.name === 'END')),
    )
    .filter(l => l !== method && (l.name === 'BEGIN' || l.name === 'VERSION' || l.name === 'PRODID'))
  const last = lines[calendar.end]
  const byUid = new Map<string, { kind: FeedPart['kind']; lines: ContentLine[] }>()
  let leftOut = 0
  for (const [component, kind] of [
    ['VEVENT', 'event'],
    ['VTODO', 'task'],
  ] as const)
    for (const at of componentsNamed(lines, component)) {
      const uid = lines[propertiesOf(lines, at, 'UID')[0] ?? -1]?.value.trim()
      if (!uid || byUid.size >= MAX_PARTS) {
        leftOut++
        continue
      }
      const key = `${kind} ${uid}`
      const part = byUid.get(key) ?? { kind, lines: [] }
      for (let i = at.begin; i <= at.end; i++) {
        const line = lines[i]
        if (line) part.lines.push(line)
      }
      byUid.set(key, part)
    }
  let repeated = 0
  const parts = [...byUid].map(([key, part]): FeedPart => {
    const named = new Set(part.lines.flatMap(l => /;TZID="?([^";:]+)"?/i.exec(l.params)?.[1] ?? []))
    const needed = [...named].flatMap(name => {
      const zone = zones.get(name)
      if (!zone || repeated + zone.length > MOST_REPEATED) return []
      repeated += zone.length
      return zone.lines
    })
    return {
      uid: key.slice(key.indexOf(' ') + 1),
      kind: part.kind,
      text: textOf([...head, ...needed, ...part.lines, ...(last ? [last] : [])]),
    }
  })
  return {
    name: own('NAME')?.value ?? own('X-WR-CALNAME')?.value ?? null,
    refreshMs: durationMs(own('REFRESH-INTERVAL')?.value ?? own('X-PUBLISHED-TTL')?.value ?? ''),
    parts,
    leftOut,
  }
}

/** Many calendar objects as one file; a time zone that several bring stands in it once. */
export function joinCalendars(texts: readonly string[]): string {
  const zones = new Map<string, string>()
  const bodies: string[] = []
  for (const text of texts) {
    const lines = parseLines(text)
    for (const z of componentsNamed(lines, 'VTIMEZONE')) {
      const tzid = lines[propertiesOf(lines, z, 'TZID')[0] ?? -1]?.value ?? ''
      if (!zones.has(tzid)) zones.set(tzid, textOf(lines.slice(z.begin, z.end + 1)))
    }
    for (const name of ['VEVENT', 'VTODO'])
      for (const at of componentsNamed(lines, name)) bodies.push(textOf(lines.slice(at.begin, at.end + 1)))
  }
  return `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Amber Loom//EN\r\n${[...zones.values(), ...bodies].join('')}END:VCALENDAR\r\n`
}
