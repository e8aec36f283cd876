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

/**
 * Lines with their folds and line ends, one after the other. A carriage return alone ends no line. By hand, because a
 * pattern keeps a place to go back to for each character of a line, and a line may have millions.
 */
function* logicalLines(text: string): Generator<string> {
  let start = 0
  for (let at = 0; at < text.length;) {
    const end = text.indexOf('\n', at)
    at = end < 0 ? text.length : end + 1
    if (end >= 0 && (text[at] === ' ' || text[at] === '\t')) continue
    yield text.slice(start, at)
    start = at
  }
}

/** Name, parameters and value of an unfolded line. Null for what is none: without a colon outside of quotes, say. */
function partsOf(flat: string): Omit<ContentLine, 'raw'> | null {
  const name = /^[A-Za-z0-9-]+/.exec(flat)?.[0] ?? ''
  if (name === '' || (flat[name.length] !== ':' && flat[name.length] !== ';')) return null
  let colon = flat.indexOf(':')
  for (let quote = flat.indexOf('"'); quote >= 0 && quote < colon;) {
    const close = flat.indexOf('"', quote + 1)
    if (close < 0) return null
    if (colon < close) colon = flat.indexOf(':', close)
    quote = flat.indexOf('"', close + 1)
  }
  if (colon < 0) return null
  return {
    name: name.toUpperCase(),
    params: flat.slice(name.length, colon),
    value: flat.slice(colon + 1),
  }
}

export function parseLines(text: string): ContentLine[] {
  const lines: ContentLine[] = []
  for (const raw of logicalLines(text)) {
    const flat = raw.replace(/\r?\n[ \t]/g, '').replace(/\r?\n$/, '')
    lines.push({ raw, ...(partsOf(flat) ?? { name: '', params: '', value: '' }) })
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
