/**
 * Edits iCalendar text line by line (RFC 5545 §3.1), so that whatever is not edited keeps every byte:
 * unknown properties, order, folding, line ends.
 */

/** One content line; `raw` is what stands in the file, folds and line end included. */
export interface ContentLine {
  raw: string
  name: string
  /** Everything between the name and the colon, with the leading `;`. */
  params: string
  value: string
}

/** A carriage return alone ends no line; it is kept as part of one. */
const TEXT = String.raw`(?:[^\r\n]|\r(?!\n))*`
const LOGICAL_LINE = new RegExp(String.raw`${TEXT}(?:\r?\n[ \t]${TEXT})*(?:\r?\n|$)`, 'g')

export function parseLines(text: string): ContentLine[] {
  const lines: ContentLine[] = []
  for (const [raw] of text.matchAll(LOGICAL_LINE)) {
    if (raw === '') continue
    const flat = raw.replace(/\r?\n[ \t]/g, '').replace(/\r?\n$/, '')
    const m = /^([A-Za-z0-9-]+)((?:;(?:"[^"]*"|[^":])*)?):([\s\S]*)$/.exec(flat)
    lines.push({ raw, name: (m?.[1] ?? '').toUpperCase(), params: m?.[2] ?? '', value: m?.[3] ?? '' })
  }
  return lines
}

export const textOf = (lines: readonly ContentLine[]): string => lines.map(l => l.raw).join('')

/**
 * RFC 5545 §3.1: at most 75 octets a line, never inside a character. One content line stays one: a line end in it,
 * which escaped text does not hold, becomes a space.
 */
export function fold(line: string, end = '\r\n'): string {
  const encoder = new TextEncoder()
  let out = ''
  let octets = 0
  for (const char of line.replace(/[\r\n]+/g, ' ')) {
    const size = encoder.encode(char).length
    if (octets + size > 75) {
      out += `${end} `
      octets = 1
    }
    out += char
    octets += size
  }
  return out + end
}

/** RFC 5545 §3.3.11. */
export const escapeText = (text: string): string =>
  text
    .replace(/\\/g, '\\\\')
    .replace(/;/g, '\\;')
    .replace(/,/g, '\\,')
    .replace(/\r\n|\r|\n/g, '\\n')

/** Where a component stands in the file: `begin` and `end` are the indexes of its BEGIN and END lines. */
export interface ComponentRange {
  begin: number
  end: number
}

/** The components called `name` directly or deeper in the file, in order. */
export function componentsNamed(lines: readonly ContentLine[], name: string): ComponentRange[] {
  const found: ComponentRange[] = []
  const open: number[] = []
  lines.forEach((line, i) => {
    if (line.name === 'BEGIN') open.push(i)
    else if (line.name === 'END') {
      const begin = open.pop()
      if (begin !== undefined && lines[begin]?.value.trim().toUpperCase() === name)
        found.push({ begin, end: i })
    }
  })
  return found.sort((x, y) => x.begin - y.begin)
}

/** Indexes of the component's own properties called `name`, not those of components inside it. */
export function propertiesOf(lines: readonly ContentLine[], at: ComponentRange, name: string): number[] {
  const found: number[] = []
  let depth = 0
  for (let i = at.begin + 1; i < at.end; i++) {
    const line = lines[i]
    if (line?.name === 'BEGIN') depth++
    else if (line?.name === 'END') depth--
    else if (depth === 0 && line?.name === name) found.push(i)
  }
  return found
}

/**
 * The file with the first property `name` of the component set to `value` (already encoded), or removed if `value`
 * is null. `params` replaces the parameters; without it they stay as they are.
 */
export function setProperty(
  lines: readonly ContentLine[],
  at: ComponentRange,
  name: string,
  value: string | null,
  params?: string,
): ContentLine[] {
  const index = propertiesOf(lines, at, name)[0]
  if (value === null) return index === undefined ? [...lines] : lines.filter((_, i) => i !== index)
  const present = index === undefined ? undefined : lines[index]
  const kept = params ?? present?.params ?? ''
  const end = (present ?? lines[at.begin])?.raw.endsWith('\r\n') === false ? '\n' : '\r\n'
  // Escaped text holds no line end; anything else that does would begin a line of its own making.
  const flat = value.replace(/[\r\n]+/g, ' ')
  const made: ContentLine = { name, params: kept, value: flat, raw: fold(`${name}${kept}:${flat}`, end) }
  if (index !== undefined) return lines.map((l, i) => (i === index ? made : l))
  // A new property goes before the first component inside (an alarm, say) and else before END.
  const inner = lines.findIndex((l, i) => i > at.begin && i < at.end && l.name === 'BEGIN')
  const before = inner === -1 ? at.end : inner
  return [...lines.slice(0, before), made, ...lines.slice(before)]
}

/** CATEGORIES may stand in several lines (RFC 5545 §3.8.1.2); one line takes the place of all. */
export function setCategories(
  lines: readonly ContentLine[],
  at: ComponentRange,
  categories: readonly string[],
): ContentLine[] {
  const more = new Set(propertiesOf(lines, at, 'CATEGORIES').slice(1))
  const one = lines.filter((_, i) => !more.has(i))
  const value = categories.length > 0 ? categories.map(escapeText).join(',') : null
  return setProperty(one, { begin: at.begin, end: at.end - more.size }, 'CATEGORIES', value)
}
