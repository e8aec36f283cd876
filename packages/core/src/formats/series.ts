import ICAL from 'ical.js'
import { exactDuration } from '../time/duration.ts'
import { componentsNamed, escapeText, fold, parseLines, propertiesOf, textOf } from '../ical/content-lines.ts'
import { basicUtc, parseCalendar } from '../ical/ical-values.ts'
import { occurrencesBetween } from '../recurrence/occurrences.ts'
import { seriesClock } from '../recurrence/series-clock.ts'
import { understoodOr } from '../ical/not-understood.ts'

/**
 * What repeats about a calendar object, in the terms of JSCalendar (RFC 8984 §4.3): the rules, and the
 * dates that are left out, added or different.
 */

export interface NDay {
  '@type': 'NDay'
  day: string
  nthOfPeriod?: number
}

export interface RecurrenceRule {
  '@type': 'RecurrenceRule'
  frequency: string
  interval?: number
  count?: number
  /** LocalDateTime in the series' own zone. */
  until?: string
  firstDayOfWeek?: string
  byDay?: NDay[]
  byMonth?: string[]
  [part: string]: unknown
}

export interface Series {
  rules: RecurrenceRule[]
  /** LocalDateTime → a patch; `{ excluded: true }` for what is left out, `{}` for what is added. */
  overrides: Record<string, Record<string, unknown>>
}

const NUMBERS: [string, string][] = [
  ['BYMONTHDAY', 'byMonthDay'],
  ['BYYEARDAY', 'byYearDay'],
  ['BYWEEKNO', 'byWeekNo'],
  ['BYHOUR', 'byHour'],
  ['BYMINUTE', 'byMinute'],
  ['BYSECOND', 'bySecond'],
  ['BYSETPOS', 'bySetPosition'],
]
const numbersOf = (value: unknown): number[] => (Array.isArray(value) ? value : [value]).map(Number)

/** LocalDateTime (RFC 8984 §1.4.4) of a date's name; a date alone gets midnight. */
const localNamed = (name: string): string =>
  name.length === 10 ? `${name}T00:00:00` : name.replace(/Z$/, '')

function ruleOf(recur: ICAL.Recur, nameOf: (time: ICAL.Time) => string, isAllDay: boolean): RecurrenceRule {
  const parts = recur.parts as Record<string, unknown>
  const rule: RecurrenceRule = { '@type': 'RecurrenceRule', frequency: recur.freq.toLowerCase() }
  if (recur.interval > 1) rule.interval = recur.interval
  if (recur.count) rule.count = recur.count
  // UNTIL is told in UTC where the start has a zone (RFC 5545 §3.3.10); a day alone counts to its end.
  if (recur.until)
    rule.until =
      recur.until.isDate && !isAllDay
        ? `${recur.until.toString().slice(0, 10)}T23:59:59`
        : localNamed(nameOf(recur.until))
  if (recur.wkst !== ICAL.Time.DEFAULT_WEEK_START)
    rule.firstDayOfWeek = ICAL.Recur.numericDayToIcalDay(recur.wkst, ICAL.Time.SUNDAY).toLowerCase()
  if (parts.BYDAY)
    rule.byDay = (parts.BYDAY as string[]).map(text => {
      const m = /^([+-]?\d+)?([A-Z]{2})$/.exec(text)
      const nth = Number(m?.[1] ?? 0)
      return { '@type': 'NDay', day: (m?.[2] ?? '').toLowerCase(), ...(nth ? { nthOfPeriod: nth } : {}) }
    })
  if (parts.BYMONTH) rule.byMonth = numbersOf(parts.BYMONTH).map(String)
  for (const [name, key] of NUMBERS) if (parts[name] !== undefined) rule[key] = numbersOf(parts[name])
  return rule
}

/** How long it is, in seconds; null where it does not say. */
function secondsOf(c: ICAL.Component): number | null {
  const [from, to, duration] = ['dtstart', 'dtend', 'duration'].map(n => c.getFirstPropertyValue(n))
  if (duration instanceof ICAL.Duration) return duration.toSeconds()
  return from instanceof ICAL.Time && to instanceof ICAL.Time ? to.subtractDate(from).toSeconds() : null
}

const textIn = (c: ICAL.Component, name: string): string => String(c.getFirstPropertyValue(name) ?? '')

/** What a date may say otherwise than its series: the property of JSCalendar and the iCalendar properties it stands for. */
const TOLD: { key: string; of: (c: ICAL.Component) => unknown }[] = [
  { key: 'title', of: c => textIn(c, 'summary') },
  { key: 'description', of: c => textIn(c, 'description') },
  {
    key: 'locations',
    of: c => {
      const name = textIn(c, 'location')
      return name ? { 1: { '@type': 'Location', name } } : null
    },
  },
  { key: 'freeBusyStatus', of: c => (/^TRANSPARENT$/i.test(textIn(c, 'transp')) ? 'free' : 'busy') },
  { key: 'privacy', of: c => PRIVACY_OF[textIn(c, 'class').toUpperCase()] ?? 'public' },
  { key: 'priority', of: c => Number(textIn(c, 'priority')) || 0 },
  {
    key: 'keywords',
    of: c => {
      const words = c.getAllProperties('categories').flatMap(p => p.getValues() as unknown[])
      return words.length > 0 ? Object.fromEntries(words.map(w => [String(w), true])) : null
    },
  },
  { key: 'status', of: c => (c.name === 'vevent' ? textIn(c, 'status').toLowerCase() || 'confirmed' : null) },
  {
    key: 'progress',
    of: c => (c.name === 'vtodo' ? textIn(c, 'status').toLowerCase() || 'needs-action' : null),
  },
]
const PRIVACY_OF: Partial<Record<string, string>> = { PRIVATE: 'private', CONFIDENTIAL: 'secret' }

/** What an occurrence says that its series does not; `start` is the one that it has, by the clock of the series. */
function differences(
  master: ICAL.Component,
  other: ICAL.Component,
  { at, start }: { at: string; start: string | null },
): Record<string, unknown> {
  const patch: Record<string, unknown> = {}
  for (const { key, of } of TOLD) {
    const [was, is] = [of(master), of(other)]
    if (JSON.stringify(was) !== JSON.stringify(is)) patch[key] = is
  }
  if (start !== null && start !== at) patch.start = start
  const length = secondsOf(other)
  if (length !== null && length !== secondsOf(master)) {
    const first = other.getFirstPropertyValue('dtstart')
    const isDays = length % 86_400 === 0 && first instanceof ICAL.Time && first.isDate
    patch.duration = isDays ? `P${length / 86_400}D` : exactDuration(length / 60)
  }
  return patch
}

/** More dates than anybody looks through are not written out one by one. */
const MOST_DATES = 500
const TEN_YEARS_MS = 10 * 366 * 86_400_000

/** The series in a calendar object; null when nothing in it repeats. Throws NotUnderstood. */
export function seriesOf(text: string): Series | null {
  const calendar = parseCalendar(text)
  const all = [...calendar.getAllSubcomponents('vevent'), ...calendar.getAllSubcomponents('vtodo')]
  const master = all.find(c => !c.hasProperty('recurrence-id'))
  if (!master) return null
  const start = master.getFirstPropertyValue('dtstart')
  if (!(start instanceof ICAL.Time)) return null
  const clock = seriesClock(master)
  const named = (property: ICAL.Property | null): string[] =>
    (property?.getValues() ?? [])
      .map((v: unknown) => (v instanceof ICAL.Period ? v.start : v))
      .filter((v: unknown): v is ICAL.Time => v instanceof ICAL.Time)
      .map(v => clock.nameOf(v, property?.getFirstParameter('tzid')))
  const rules = master
    .getAllProperties('rrule')
    .map(p => p.getFirstValue() as unknown)
    .filter((r): r is ICAL.Recur => r instanceof ICAL.Recur)
    .map(r => ruleOf(r, time => clock.nameOf(time), start.isDate))
  // Others know no zone of the file's own making, and no change that counts for later dates: each date is told.
  const isOwnZone = !start.isDate && clock.isOwn
  const local = (name: string): string =>
    isOwnZone ? new Date(clock.epochOf(name)).toISOString().slice(0, 19) : localNamed(name)
  const overrides: Series['overrides'] = {}
  for (const p of master.getAllProperties('rdate')) for (const n of named(p)) overrides[local(n)] = {}
  for (const p of master.getAllProperties('exdate'))
    for (const n of named(p)) overrides[local(n)] = { excluded: true }
  const others = all.flatMap(other => {
    const id = other.getFirstProperty('recurrence-id')
    const [name] = named(id)
    const onward = id?.getFirstParameter('range') === 'THISANDFUTURE'
    return name === undefined ? [] : [{ other, name, onward }]
  })
  const [first] = named(master.getFirstProperty('dtstart'))
  const told = isOwnZone || others.some(o => o.onward)
  if (told && first !== undefined) {
    const from = clock.epochOf(first)
    const dates = occurrencesBetween(text, from - TEN_YEARS_MS / 10, from + TEN_YEARS_MS, 'UTC')
    for (const o of dates.slice(0, MOST_DATES)) {
      const onward = others.findLast(x => x.onward && x.name <= o.recurrenceId)
      const at = local(o.recurrenceId)
      const begins = local(clock.nameAt(o.startMs))
      if (onward) overrides[at] = differences(master, onward.other, { at, start: begins })
      else if (isOwnZone && o.recurrenceId !== first) overrides[at] = {}
    }
  }
  for (const { other, name } of others.filter(o => !o.onward)) {
    const [begins] = named(other.getFirstProperty('dtstart'))
    const at = local(name)
    overrides[at] = differences(master, other, { at, start: begins === undefined ? null : local(begins) })
  }
  return rules.length === 0 && Object.keys(overrides).length === 0
    ? null
    : { rules: isOwnZone ? [] : rules, overrides }
}

const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : typeof value === 'object' && value !== null
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([x], [y]) => (x < y ? -1 : 1))
            .map(([k, v]) => [k, sorted(v)]),
        )
      : value

export const seriesKey = (series: Series | null): string | null => series && JSON.stringify(sorted(series))

/** In comparable form; null when nothing repeats or it cannot be read. */
export const seriesKeyOf = (text: string): string | null =>
  understoodOr(() => seriesKey(seriesOf(text)), null)

const upper = (text: unknown): string => String(text).toUpperCase()

/** A rule as RRULE. `untilOf` tells a LocalDateTime of the series as UNTIL does (RFC 5545 §3.3.10). */
function rruleOf(rule: RecurrenceRule, untilOf: (local: string) => string): string {
  const parts = [`FREQ=${upper(rule.frequency)}`]
  if (rule.interval) parts.push(`INTERVAL=${rule.interval}`)
  if (rule.until) parts.push(`UNTIL=${untilOf(rule.until)}`)
  if (rule.count) parts.push(`COUNT=${rule.count}`)
  if (rule.firstDayOfWeek) parts.push(`WKST=${upper(rule.firstDayOfWeek)}`)
  if (rule.byDay)
    parts.push(`BYDAY=${rule.byDay.map(d => `${d.nthOfPeriod ?? ''}${upper(d.day)}`).join(',')}`)
  if (rule.byMonth) parts.push(`BYMONTH=${rule.byMonth.join(',')}`)
  for (const [name, key] of NUMBERS)
    if (Array.isArray(rule[key])) parts.push(`${name}=${(rule[key] as unknown[]).map(Number).join(',')}`)
  return parts.join(';')
}

export interface SeriesTerms {
  component: 'VEVENT' | 'VTODO'
  /** Of DTSTART, as in `;TZID=Europe/Dublin` or `;VALUE=DATE`. */
  params: string
  utc: boolean
  /** Epoch ms of a LocalDateTime of the series; null for dates and floating times. */
  epoch: ((local: string) => number) | null
}

/** The iCalendar properties that a patch of a date sets, encoded; null takes one out. */
function linesOf(patch: Record<string, unknown>): Map<string, string | null> {
  const lines = new Map<string, string | null>()
  const text = (value: unknown): string | null =>
    typeof value === 'string' && value !== '' ? escapeText(value) : null
  if ('title' in patch) lines.set('SUMMARY', text(patch.title) ?? '')
  if ('description' in patch) lines.set('DESCRIPTION', text(patch.description))
  if ('locations' in patch) {
    const [place] = Object.values((patch.locations ?? {}) as Record<string, { name?: unknown }>)
    lines.set('LOCATION', text(place?.name))
  }
  if ('freeBusyStatus' in patch)
    lines.set('TRANSP', patch.freeBusyStatus === 'free' ? 'TRANSPARENT' : 'OPAQUE')
  if ('privacy' in patch) {
    const [hidden] = Object.entries(PRIVACY_OF).find(([, privacy]) => privacy === patch.privacy) ?? []
    lines.set('CLASS', hidden ?? 'PUBLIC')
  }
  if ('priority' in patch)
    lines.set('PRIORITY', Number(patch.priority) ? String(Number(patch.priority)) : null)
  if ('keywords' in patch) {
    const words = Object.keys((patch.keywords ?? {}) as object)
    lines.set('CATEGORIES', words.length > 0 ? words.map(escapeText).join(',') : null)
  }
  for (const key of ['status', 'progress'])
    if (typeof patch[key] === 'string')
      lines.set('STATUS', upper(patch[key] === 'failed' ? 'cancelled' : patch[key]))
  return lines
}

/** `text`, which holds one occurrence, made into the series. */
export function withSeries(text: string, series: Series, terms: SeriesTerms): string {
  const lines = parseLines(text)
  const [at] = componentsNamed(lines, terms.component)
  if (!at) return text
  const date = terms.params.includes('VALUE=DATE')
  const stamp = (local: string): string =>
    date ? local.slice(0, 10).replace(/-/g, '') : `${local.replace(/[-:]/g, '')}${terms.utc ? 'Z' : ''}`
  const untilOf = (local: string): string =>
    terms.epoch && !date ? basicUtc(terms.epoch(local)) : stamp(local)
  const entries = Object.entries(series.overrides)
  const dated = (name: string, local: string): string => `${name}${terms.params}:${stamp(local)}`
  const component = parseCalendar(text).getFirstSubcomponent(terms.component.toLowerCase())
  const length = component && secondsOf(component)
  const added = [
    ...series.rules.map(r => `RRULE:${rruleOf(r, untilOf)}`),
    ...entries.filter(([, p]) => p.excluded === true).map(([local]) => dated('EXDATE', local)),
    ...entries.filter(([, p]) => Object.keys(p).length === 0).map(([local]) => dated('RDATE', local)),
  ].map(l => fold(l))
  const others = entries
    .filter(([, p]) => p.excluded !== true && Object.keys(p).length > 0)
    .map(([local, patch]) =>
      overrideOf(
        lines.slice(at.begin, at.end + 1).map(l => l.raw),
        local,
        patch,
      ),
    )
  function overrideOf(master: string[], local: string, patch: Record<string, unknown>): string {
    const start = typeof patch.start === 'string' ? patch.start : local
    const own = parseLines(master.join(''))
    const [range] = componentsNamed(own, terms.component)
    const said = linesOf(patch)
    const drop = new Set(
      ['DTSTART', 'DTEND', 'DURATION', ...said.keys()].flatMap(n =>
        range ? propertiesOf(own, range, n) : [],
      ),
    )
    const kept = own.filter((_, i) => !drop.has(i))
    const set = [
      dated('RECURRENCE-ID', local),
      dated('DTSTART', start),
      ...lengthLine(patch),
      ...[...said].flatMap(([name, value]) => (value === null ? [] : [`${name}:${value}`])),
    ].map(l => fold(l))
    return [...kept.slice(0, -1).map(l => l.raw), ...set, kept.at(-1)?.raw ?? ''].join('')
  }
  function lengthLine(patch: Record<string, unknown>): string[] {
    if (typeof patch.duration === 'string') return [`DURATION:${patch.duration}`]
    return length === null
      ? []
      : [`DURATION:${date ? `P${Math.round(length / 86_400)}D` : exactDuration(length / 60)}`]
  }
  const head = lines.slice(0, at.end).map(l => l.raw)
  return [...head, ...added, lines[at.end]?.raw ?? '', ...others, textOf(lines.slice(at.end + 1))].join('')
}
