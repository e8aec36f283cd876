import ICAL from 'ical.js'
import { exactDuration } from '../time/duration.ts'
import { isKnownZone, zonedAt } from '../time/when.ts'
import { componentsNamed, escapeText, fold, parseLines, propertiesOf, textOf } from '../ical/content-lines.ts'
import { basicUtc, parseCalendar, timesOf } from '../ical/ical-values.ts'
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

/** LocalDateTime (RFC 8984 §1.4.4); a date alone gets midnight. */
const localOf = (time: ICAL.Time): string => {
  const iso = time.toString().replace(/Z$/, '')
  return time.isDate ? `${iso.slice(0, 10)}T00:00:00` : iso
}

/** A time told in UTC, in the terms of the series' start. */
function inTermsOf(start: ICAL.Time | null, tzid: string | null, time: ICAL.Time): ICAL.Time {
  if (!start?.zone || time.isDate || time.zone !== ICAL.Timezone.utcTimezone) return time
  if (!tzid || !isKnownZone(tzid)) return time.convertToZone(start.zone)
  // By our own zone data, as everywhere; the file's own description may say something else.
  const local = zonedAt(time.toJSDate().getTime(), tzid)
  return local.kind === 'zoned' ? ICAL.Time.fromDateTimeString(local.local) : time
}

function ruleOf(recur: ICAL.Recur, local: (time: ICAL.Time) => ICAL.Time): RecurrenceRule {
  const parts = recur.parts as Record<string, unknown>
  const rule: RecurrenceRule = { '@type': 'RecurrenceRule', frequency: recur.freq.toLowerCase() }
  if (recur.interval > 1) rule.interval = recur.interval
  if (recur.count) rule.count = recur.count
  // UNTIL is told in UTC where the start has a zone (RFC 5545 §3.3.10).
  if (recur.until) rule.until = localOf(local(recur.until))
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

/** What an occurrence says that its series does not. */
function differences(master: ICAL.Component, other: ICAL.Component, at: string): Record<string, unknown> {
  const patch: Record<string, unknown> = {}
  const text = (name: string, key: string): void => {
    const [was, is] = [master, other].map(c => String(c.getFirstPropertyValue(name) ?? ''))
    if (was !== is) patch[key] = is
  }
  text('summary', 'title')
  text('description', 'description')
  const status = String(other.getFirstPropertyValue('status') ?? '').toLowerCase()
  if (status && status !== String(master.getFirstPropertyValue('status') ?? '').toLowerCase())
    patch.status = status
  const start = other.getFirstPropertyValue('dtstart')
  if (start instanceof ICAL.Time && localOf(start) !== at) patch.start = localOf(start)
  const length = secondsOf(other)
  if (length !== null && length !== secondsOf(master))
    patch.duration =
      length % 86_400 === 0 && start instanceof ICAL.Time && start.isDate
        ? `P${length / 86_400}D`
        : exactDuration(length / 60)
  return patch
}

/** The series in a calendar object; null when nothing in it repeats. Throws NotUnderstood. */
export function seriesOf(text: string): Series | null {
  const calendar = parseCalendar(text)
  const all = [...calendar.getAllSubcomponents('vevent'), ...calendar.getAllSubcomponents('vtodo')]
  const master = all.find(c => !c.hasProperty('recurrence-id'))
  if (!master) return null
  const first = master.getFirstPropertyValue('dtstart')
  const start = first instanceof ICAL.Time ? first : null
  const tzid = master.getFirstProperty('dtstart')?.getFirstParameter('tzid') ?? null
  const local = (time: ICAL.Time): ICAL.Time => inTermsOf(start, tzid, time)
  const rules = master
    .getAllProperties('rrule')
    .map(p => p.getFirstValue())
    .filter((r): r is ICAL.Recur => r instanceof ICAL.Recur)
    .map(r => ruleOf(r, local))
  const overrides: Series['overrides'] = {}
  for (const t of timesOf(master, 'rdate')) overrides[localOf(local(t))] = {}
  for (const t of timesOf(master, 'exdate')) overrides[localOf(local(t))] = { excluded: true }
  for (const other of all) {
    const id = other.getFirstPropertyValue('recurrence-id')
    if (!(id instanceof ICAL.Time)) continue
    const at = localOf(local(id))
    overrides[at] = differences(master, other, at)
  }
  return rules.length === 0 && Object.keys(overrides).length === 0 ? null : { rules, overrides }
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

/** A rule as RRULE. `untilUtc` tells a LocalDateTime of the series in UTC, epoch ms; null for a date. */
function rruleOf(rule: RecurrenceRule, untilUtc: ((local: string) => number) | null): string {
  const parts = [`FREQ=${upper(rule.frequency)}`]
  if (rule.interval) parts.push(`INTERVAL=${rule.interval}`)
  if (rule.until)
    parts.push(
      `UNTIL=${untilUtc ? basicUtc(untilUtc(rule.until)) : rule.until.slice(0, 10).replace(/-/g, '')}`,
    )
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

/** `text`, which holds one occurrence, made into the series. */
export function withSeries(text: string, series: Series, terms: SeriesTerms): string {
  const lines = parseLines(text)
  const [at] = componentsNamed(lines, terms.component)
  if (!at) return text
  const date = terms.params.includes('VALUE=DATE')
  const stamp = (local: string): string =>
    date ? local.slice(0, 10).replace(/-/g, '') : `${local.replace(/[-:]/g, '')}${terms.utc ? 'Z' : ''}`
  const entries = Object.entries(series.overrides)
  const dated = (name: string, local: string): string => `${name}${terms.params}:${stamp(local)}`
  const component = parseCalendar(text).getFirstSubcomponent(terms.component.toLowerCase())
  const length = component && secondsOf(component)
  const added = [
    ...series.rules.map(r => `RRULE:${rruleOf(r, terms.epoch)}`),
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
    const drop = new Set(
      ['DTSTART', 'DTEND', 'DURATION', 'SUMMARY', 'DESCRIPTION', 'STATUS'].flatMap(n =>
        range ? propertiesOf(own, range, n) : [],
      ),
    )
    const kept = own.filter((_, i) => !drop.has(i))
    const was = (name: string): string | null =>
      (range && own[propertiesOf(own, range, name)[0] ?? -1]?.value) ?? null
    const set = [
      dated('RECURRENCE-ID', local),
      dated('DTSTART', start),
      ...lengthLine(patch),
      `SUMMARY:${'title' in patch ? escapeText(String(patch.title)) : (was('SUMMARY') ?? '')}`,
      ...('description' in patch
        ? [`DESCRIPTION:${escapeText(String(patch.description))}`]
        : was('DESCRIPTION')
          ? [`DESCRIPTION:${was('DESCRIPTION') ?? ''}`]
          : []),
      ...(typeof patch.status === 'string'
        ? [`STATUS:${upper(patch.status)}`]
        : was('STATUS')
          ? [`STATUS:${was('STATUS') ?? ''}`]
          : []),
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
