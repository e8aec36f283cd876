import ICAL from 'ical.js'
import { occurrencesBetween } from './occurrences.ts'
import { epochOf, type When } from '../time/when.ts'
import {
  type ContentLine,
  componentsNamed,
  fold,
  parseLines,
  propertiesOf,
  setProperty,
  textOf,
} from '../ical/content-lines.ts'
import { basicUtc, NotUnderstood, whenOf } from '../ical/ical-values.ts'
import { dateOfClock } from './date-of-clock.ts'

/**
 * The rounds of a repeating task (VTODO with RRULE). Only its clients advance it: completing a round stores it as
 * a completed instance of its own (RFC 5545 §3.8.4.4), and the task goes on to the next. So rounds are told apart
 * by the number completed. A date that jumps without a completion is a move.
 */

const CLOSED = new Set(['COMPLETED', 'CANCELLED'])
const YEARS_MS = 11 * 366 * 86_400_000
const basic = (id: string): string => id.replace(/[-:]/g, '')

const isClosed = (c: ICAL.Component): boolean =>
  c.hasProperty('recurrence-id') && CLOSED.has(String(c.getFirstPropertyValue('status') ?? '').toUpperCase())

/** How many rounds were done, as the name of the one it is in now; null for a task that does not repeat. */
export function todoRound(todos: readonly ICAL.Component[]): string | null {
  const master = todos.find(c => !c.hasProperty('recurrence-id'))
  if (!master?.hasProperty('rrule') && !master?.hasProperty('rdate')) return null
  return master.hasProperty('dtstart') ? String(todos.filter(isClosed).length) : null
}

/** The same object told as events, whose dates can be worked out. */
const asEvents = (text: string): string =>
  textOf(
    parseLines(text).flatMap(l =>
      l.name === 'DUE' || l.name === 'COMPLETED'
        ? []
        : /^(BEGIN|END)$/.test(l.name) && l.value === 'VTODO'
          ? parseLines(`${l.name}:VEVENT\r\n`)
          : // What was done in a round leaves it a date of the series.
            l.name === 'STATUS'
            ? []
            : [l],
    ),
  )

/** The rounds still open, as RECURRENCE-IDs, the present one first; at most two are looked for. */
function openRounds(text: string, todos: readonly ICAL.Component[], anchor: When): string[] {
  const closed = new Set(
    todos.filter(isClosed).flatMap(c => {
      const id = c.getFirstPropertyValue('recurrence-id')
      return id instanceof ICAL.Time ? [id.toString()] : []
    }),
  )
  // Instances of single rounds may leave out nearly everything; the dates are those of the rule.
  const alone = asEvents(textOf(masterAlone(parseLines(text))))
  const from = epochOf(anchor, 'UTC')
  for (const span of [40 * 86_400_000, YEARS_MS]) {
    const open = occurrencesBetween(alone, from, from + span, 'UTC', { first: closed.size + 2 })
      .map(o => o.recurrenceId)
      .filter(id => !closed.has(id))
    if (open.length > 1 || span === YEARS_MS) return open.slice(0, 2)
  }
  return []
}

/** How far the dates of a task are behind the round it is in, ms by the wall: some clients leave them at the first. */
export function behind(text: string, todos: readonly ICAL.Component[]): number {
  const start = todos.find(c => !c.hasProperty('recurrence-id'))?.getFirstProperty('dtstart')
  if (!start || !todos.some(isClosed)) return 0
  const anchor = whenOf(start)
  const [present] = openRounds(text, todos, anchor)
  return present === undefined ? 0 : wallOf(dateOfClock(anchor, present)) - wallOf(anchor)
}

const wallOf = (w: When): number => (w.kind === 'date' ? Date.parse(w.date) : Date.parse(`${w.local}Z`))

/** A time so much later by the clock on the wall. */
export function laterBy(when: When, ms: number): When {
  const at = new Date(wallOf(when) + ms).toISOString().slice(0, 19)
  return when.kind === 'date' ? { kind: 'date', date: at.slice(0, 10) } : { ...when, local: at }
}

/**
 * `text` with its present round completed. Null where that was the last one, or where nothing repeats: then the task
 * itself is done. `now` in epoch ms.
 */
export function completeRound(text: string, todos: readonly ICAL.Component[], now: number): string | null {
  if (todoRound(todos) === null) return null
  const master = todos.find(c => !c.hasProperty('recurrence-id'))
  const start = master?.getFirstProperty('dtstart')
  if (!start) return null
  const anchor = whenOf(start)
  const [present, next] = openRounds(text, todos, anchor)
  if (present === undefined || next === undefined) return null
  let lines = parseLines(text)
  const range = () => {
    const found = componentsNamed(lines, 'VTODO').find(
      t => propertiesOf(lines, t, 'RECURRENCE-ID').length === 0,
    )
    if (!found) throw new NotUnderstood('Only single rounds of this task are known here.')
    return found
  }
  const set = (name: string, value: string | null, params?: string): void => {
    lines = setProperty(lines, range(), name, value, params)
  }
  const line = (name: string): ContentLine | undefined => lines[propertiesOf(lines, range(), name)[0] ?? -1]
  const params = line('DTSTART')?.params ?? ''
  const by = wallOf(dateOfClock(anchor, next)) - wallOf(anchor)
  const passed = wallOf(dateOfClock(anchor, present)) - wallOf(anchor)

  // The round that is done, as it was.
  const skipped = new Set(['RRULE', 'RDATE', 'EXDATE', 'STATUS', 'PERCENT-COMPLETE', 'COMPLETED'])
  const own = lines.slice(range().begin, range().end + 1).filter(l => !skipped.has(l.name))
  const done = parseLines(
    [
      fold(`RECURRENCE-ID${params}:${basic(present)}`),
      fold('STATUS:COMPLETED'),
      fold(`COMPLETED:${basicUtc(now)}`),
    ].join(''),
  )
  const record = [...own.slice(0, 1), ...done, ...own.slice(1).map(l => shift(l, passed))]

  const rule = line('RRULE')
  const count = /(?:^|;)COUNT=(\d+)/i.exec(rule?.value ?? '')?.[1]
  if (rule && count !== undefined) {
    const before = occurrencesBetween(
      asEvents(textOf(masterAlone(lines).filter(l => l.name !== 'EXDATE'))),
      epochOf(anchor, 'UTC'),
      epochOf(dateOfClock(anchor, next), 'UTC'),
      'UTC',
    ).length
    set('RRULE', rule.value.replace(/COUNT=\d+/i, `COUNT=${Math.max(1, Number(count) - before)}`))
  }
  const { begin, end } = range()
  lines = lines.map((l, at) => (at > begin && at < end && DATES.has(l.name) ? shift(l, by) : l))
  set('STATUS', line('STATUS') ? 'NEEDS-ACTION' : null)
  set('PERCENT-COMPLETE', null)
  set('DTSTAMP', basicUtc(now), '')
  const last = componentsNamed(lines, 'VTODO').at(-1) ?? range()
  return textOf([...lines.slice(0, last.end + 1), ...record, ...lines.slice(last.end + 1)])
}

const DATES = new Set(['DTSTART', 'DUE'])

function shift(line: ContentLine, by: number): ContentLine {
  const m = /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d))?(Z?)$/.exec(line.value)
  if (!DATES.has(line.name) || !m) return line
  const [, y, mo, d, h = '00', mi = '00', s = '00', z = ''] = m
  const at = new Date(Date.parse(`${y}-${mo}-${d}T${h}:${mi}:${s}Z`) + by).toISOString().slice(0, 19)
  const value = m[4] === undefined ? basic(at.slice(0, 10)) : `${basic(at)}${z}`
  return {
    ...line,
    value,
    raw: fold(`${line.name}${line.params}:${value}`, line.raw.endsWith('\r\n') ? '\r\n' : '\n'),
  }
}

function masterAlone(lines: readonly ContentLine[]): ContentLine[] {
  const others = componentsNamed(lines, 'VTODO').filter(
    t => propertiesOf(lines, t, 'RECURRENCE-ID').length > 0,
  )
  return lines.filter((_, i) => !others.some(r => i >= r.begin && i <= r.end))
}
