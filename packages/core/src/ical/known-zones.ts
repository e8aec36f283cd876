import ICAL from 'ical.js'

/**
 * A calendar's objects repeat the same few VTIMEZONEs. Each is parsed once, and the objects that carry it share
 * the result. Core never changes a parsed VTIMEZONE.
 */

/** A component of jCal (RFC 7265): its name, properties and subcomponents. */
type JCal = [name: string, properties: unknown[], components: JCal[]]

const parsedZones = new Map<string, JCal>()
const MOST_ZONES = 500
const LONGEST = 20_000

/** A line that begins or ends a component; the last group: where it is folded. */
const BOUNDARY_LINE = /^(BEGIN|END)\b[^:\r\n]*:(.*)(?:\r?\n([ \t])?|$)/gim

/** The VTIMEZONEs that stand directly in the calendar; none if its components are not properly nested. */
function zonesIn(text: string): [from: number, to: number][] {
  const zones: [number, number][] = []
  const open: { name: string; from: number }[] = []
  let end = 0
  for (const line of text.matchAll(BOUNDARY_LINE)) {
    const [whole, word = '', given = '', folded] = line
    const name = given.trim().toLowerCase()
    if (folded || (open.length === 0 && line.index > 0)) return []
    if (word.toLowerCase() === 'begin') open.push({ name, from: line.index })
    else {
      const begun = open.pop()
      end = line.index + whole.length
      if (begun?.name !== name) return []
      if (name === 'vtimezone' && open.length === 1) zones.push([begun.from, end])
    }
  }
  return open.length === 0 && text.slice(end).trim() === '' ? zones : []
}

function parsedZone(text: string): JCal {
  const known = parsedZones.get(text)
  if (known) return known
  const zone = ICAL.parse(text) as unknown as JCal
  if (parsedZones.size >= MOST_ZONES) parsedZones.clear()
  parsedZones.set(text, zone)
  return zone
}

/** As ICAL.parse for one calendar, its zones first. Throws errors of the library. */
export function parseWithZones(text: string): JCal {
  const zones: JCal[] = []
  let rest = ''
  let at = 0
  for (const [from, to] of zonesIn(text)) {
    if (to - from > LONGEST) continue
    zones.push(parsedZone(text.slice(from, to)))
    rest += text.slice(at, from)
    at = to
  }
  const parsed = ICAL.parse(rest + text.slice(at)) as unknown as JCal
  if (zones.length > 0) parsed[2].unshift(...zones)
  return parsed
}
