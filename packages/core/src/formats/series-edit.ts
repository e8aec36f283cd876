import ICAL from 'ical.js'
import {
  type ComponentRange,
  componentsNamed,
  type ContentLine,
  fold,
  parseLines,
  propertiesOf,
  setProperty,
  textOf,
} from '../ical/content-lines.ts'
import { basicUtc, NotUnderstood, parseCalendar } from '../ical/ical-values.ts'
import { masterOf, parseEvent, patchComponent } from '../ical/vevent.ts'
import type { OccurrenceChange, SeriesPatch, Span } from '../items/items.ts'
import { seriesDate } from '../recurrence/dates-of-series.ts'
import { occurrencesBetween } from '../recurrence/occurrences.ts'
import { type SeriesClock, seriesClock } from '../recurrence/series-clock.ts'
import { exactDuration } from '../time/duration.ts'
import { addDays, daysBetween, epochOf, MINUTE } from '../time/when.ts'

/**
 * Changes a series (RFC 5545 §3.8.4.4 and §3.8.5): one date, this and later dates, or all. Lines that are not
 * changed keep their bytes. A date is named by its RECURRENCE-ID in the clock of the series; lines of the file may tell
 * it by another clock.
 */

const basic = (name: string): string => name.replace(/[-:]/g, '')

interface Override {
  range: ComponentRange
  /** Of the date it stands for. */
  name: string
  /** It counts for later dates too (RANGE=THISANDFUTURE). */
  onward: boolean
}

interface Series {
  lines: ContentLine[]
  master: ComponentRange
  clock: SeriesClock
  overrides: Override[]
  minutes: number
}

const isMaster =
  (lines: readonly ContentLine[]) =>
  (range: ComponentRange): boolean =>
    propertiesOf(lines, range, 'RECURRENCE-ID').length === 0
const masterIn = (lines: readonly ContentLine[]): ComponentRange | undefined =>
  componentsNamed(lines, 'VEVENT').find(isMaster(lines))

function seriesIn(text: string): Series {
  const lines = parseLines(text)
  const ranges = componentsNamed(lines, 'VEVENT')
  const master = ranges.find(isMaster(lines))
  if (!master) throw new NotUnderstood('Only single dates of this series are known here.')
  if (propertiesOf(lines, master, 'RRULE').length > 1)
    throw new NotUnderstood('It repeats by several rules at once. Change it in its own calendar.')
  const calendar = parseCalendar(text)
  const clock = seriesClock(masterOf(calendar))
  const overrides = calendar.getAllSubcomponents('vevent').flatMap((component, i): Override[] => {
    const property = component.getFirstProperty('recurrence-id')
    const time = property?.getFirstValue() as unknown
    const range = ranges[i]
    if (!(time instanceof ICAL.Time) || !range) return []
    const name = clock.nameOf(time, property?.getFirstParameter('tzid'))
    return [{ range, name, onward: property?.getFirstParameter('range') === 'THISANDFUTURE' }]
  })
  return { lines, master, clock, overrides, minutes: parseEvent(text).time.minutes }
}

/** The parameters and value form of DTSTART, for another date of the same clock. */
function like({ lines, master }: Series, name: string): { params: string; value: string } {
  const at = propertiesOf(lines, master, 'DTSTART')[0]
  return { params: at === undefined ? '' : (lines[at]?.params ?? ''), value: basic(name) }
}

const without = (lines: readonly ContentLine[], ranges: readonly ComponentRange[]): ContentLine[] =>
  lines.filter((_, i) => !ranges.some(r => i >= r.begin && i <= r.end))

/** The times in a list of dates, each with its name in the clock of the series; as it stands where it is none. */
function namedValues(
  { lines, master, clock }: Series,
  at: number,
): { value: string; name: string | null; isDay: boolean }[] {
  const line = lines[at]
  if (!line) return []
  // Parsed with the zones of its own file.
  const around = [...lines.slice(0, master.begin + 1), line, ...lines.slice(master.end)]
  const property = masterOf(parseCalendar(textOf(around))).getFirstProperty(line.name.toLowerCase())
  const times = (property?.getValues() ?? []) as unknown[]
  const tzid = property?.getFirstParameter('tzid')
  return line.value.split(',').map((value, i) => {
    const time = times[i]
    return time instanceof ICAL.Time
      ? { value, name: clock.nameOf(time, tzid), isDay: time.isDate }
      : { value, name: null, isDay: false }
  })
}

const linesNamed = ({ lines, master }: Series, name: string): number[] => propertiesOf(lines, master, name)

/** Throws NotUnderstood with the reason where a series is told in a way that cannot be changed here. */
export function patchSeries(text: string, patch: SeriesPatch, now: number): string {
  if (patch.do === 'back') return patch.text
  const series = seriesIn(text)
  switch (patch.do) {
    case 'change':
      return changed(text, series, patch.id, patch.change, now)
    case 'drop':
      return dropped(series, patch.id, now)
    case 'keep':
      return kept(series, patch.id, now)
    case 'end-before':
      return endedBefore(series, patch.id, now)
    case 'shift':
      return shifted(series, patch.id, patch.time, now)
  }
}

const NOT_IN_OVERRIDE = new Set(['RRULE', 'RDATE', 'EXDATE', 'EXRULE', 'RECURRENCE-ID'])

function changed(text: string, series: Series, id: string, change: OccurrenceChange, now: number): string {
  const { overrides, master } = series
  let { lines } = series
  const known = overrides.find(o => o.name === id)
  if (known?.onward)
    throw new NotUnderstood('A change of this date counts for later ones too. Change it in its own calendar.')
  if (known) return textOf(patchComponent(lines, nth(series, known.range), change, now))
  const asRuled = seriesDate(text, id)?.event.time
  if (!asRuled) throw new NotUnderstood('The series has no such date any more.')
  // An earlier change that counts for later dates is what this date is like so far.
  const { begin, end } = overrides.findLast(o => o.onward && o.name < id)?.range ?? master
  const own = lines.slice(begin, end + 1).filter(l => !NOT_IN_OVERRIDE.has(l.name))
  const last = componentsNamed(lines, 'VEVENT').at(-1) ?? master
  const { params, value } = like(series, id)
  const named = parseLines(fold(`RECURRENCE-ID${params}:${value}`))
  lines = [
    ...lines.slice(0, last.end + 1),
    ...own.slice(0, 1),
    ...named,
    ...own.slice(1),
    ...lines.slice(last.end + 1),
  ]
  const made = (of: readonly ContentLine[]): ComponentRange => componentsNamed(of, 'VEVENT').at(-1) ?? master
  // First at the series' own time, so that an alarm with an absolute time moves along.
  lines = patchComponent(lines, made, { time: asRuled }, now)
  return textOf(patchComponent(lines, made, change, now))
}

/** The same VEVENT of the file, however its lines have changed since. */
function nth({ lines, master }: Series, range: ComponentRange) {
  const at = componentsNamed(lines, 'VEVENT').findIndex(r => r.begin === range.begin)
  return (of: readonly ContentLine[]): ComponentRange => componentsNamed(of, 'VEVENT')[at] ?? master
}

function dropped(series: Series, id: string, now: number): string {
  const gone = series.overrides.filter(o => o.name === id && !o.onward)
  const isLeftOut = linesNamed(series, 'EXDATE').some(at => namedValues(series, at).some(v => v.name === id))
  let lines = without(
    series.lines,
    gone.map(o => o.range),
  )
  const master = masterIn(lines)
  if (!master) return textOf(lines)
  if (!isLeftOut) {
    const { params, value } = like(series, id)
    const made = parseLines(fold(`EXDATE${params}:${value}`))
    const at = propertiesOf(lines, master, 'DTSTART')[0] ?? master.begin
    lines = [...lines.slice(0, at + 1), ...made, ...lines.slice(at + 1)]
  }
  return stamped(lines, now)
}

const endOfLine = ({ raw }: ContentLine): string => (raw.endsWith('\r\n') ? '\r\n' : '\n')

function kept(series: Series, id: string, now: number): string {
  const listed = new Set(linesNamed(series, 'EXDATE'))
  const isOf = (v: { name: string | null; isDay: boolean }): boolean =>
    v.name === id || (v.isDay && v.name?.slice(0, 10) === id.slice(0, 10))
  const lines = series.lines.flatMap((l, at) => {
    if (!listed.has(at)) return [l]
    const values = namedValues(series, at)
    const left = values.filter(v => !isOf(v))
    if (left.length === values.length) return [l]
    const value = left.map(v => v.value).join(',')
    return value === '' ? [] : [{ ...l, value, raw: fold(`${l.name}${l.params}:${value}`, endOfLine(l)) }]
  })
  return stamped(lines, now)
}

function stamped(lines: ContentLine[], now: number): string {
  const master = componentsNamed(lines, 'VEVENT')[0]
  return textOf(master ? setProperty(lines, master, 'DTSTAMP', basicUtc(now), '') : lines)
}

/** RFC 5545 §3.3.10: UNTIL is a day where the series has days, local where it floats, else an instant in UTC. */
function untilOf(clock: SeriesClock, name: string, secondsBefore: number): string {
  const { kind } = clock.whenOf(name)
  if (kind === 'date') return basic(secondsBefore > 0 ? addDays(name.slice(0, 10), -1) : name)
  const ms = clock.epochOf(name) - secondsBefore * 1000
  return kind === 'floating' ? basic(clock.nameAt(ms)) : basicUtc(ms)
}

function withRule(lines: ContentLine[], change: (parts: string[]) => string[]): ContentLine[] {
  const master = componentsNamed(lines, 'VEVENT').find(e => propertiesOf(lines, e, 'RRULE').length > 0)
  const at = master && propertiesOf(lines, master, 'RRULE')[0]
  if (!master || at === undefined) return lines
  return setProperty(lines, master, 'RRULE', change((lines[at]?.value ?? '').split(';')).join(';'))
}

function endedBefore(series: Series, id: string, now: number): string {
  refuseListed(series)
  const later = series.overrides.filter(o => o.name >= id)
  const lines = withRule(
    without(
      series.lines,
      later.map(o => o.range),
    ),
    parts => [...parts.filter(p => !/^(UNTIL|COUNT)=/i.test(p)), `UNTIL=${untilOf(series.clock, id, 1)}`],
  )
  return stamped(lines, now)
}

function refuseListed(series: Series): void {
  if (linesNamed(series, 'RDATE').length > 0)
    throw new NotUnderstood('Some of its dates are listed one by one. Change it in its own calendar.')
}

/** Whether `id` is the first date: what concerns it and later ones then concerns all. Throws NotUnderstood. */
export function isFirst(text: string, id: string): boolean {
  const master = masterOf(parseCalendar(text))
  const start = master.getFirstPropertyValue('dtstart')
  const tzid = master.getFirstProperty('dtstart')?.getFirstParameter('tzid')
  return start instanceof ICAL.Time && seriesClock(master).nameOf(start, tzid) === id
}

/** The rest of a series as one of its own: from `id` on, with another uid. Throws NotUnderstood. */
export function seriesFrom(text: string, id: string, uid: string, now: number): string {
  const series = seriesIn(text)
  refuseListed(series)
  const earlier = series.overrides.filter(o => o.name < id)
  if (earlier.some(o => o.onward))
    throw new NotUnderstood(
      'A change of an earlier date counts for later ones too. Change it in its own calendar.',
    )
  let lines = without(
    series.lines,
    earlier.map(o => o.range),
  )
  lines = withRule(lines, parts =>
    parts.map(p => (/^COUNT=/i.test(p) ? `COUNT=${Number(p.slice(6)) - datesBefore(series, id)}` : p)),
  )
  for (let i = 0; i < componentsNamed(lines, 'VEVENT').length; i++) {
    const range = componentsNamed(lines, 'VEVENT')[i]
    if (range) lines = setProperty(lines, range, 'UID', uid)
  }
  const { params, value } = like(series, id)
  const end = endLike(series, id, series.minutes)
  const hasEnd = linesNamed(series, 'DTEND').length > 0
  return stamped(
    withMaster(lines, {
      DTSTART: { params, value },
      ...(hasEnd && end && { DTEND: end }),
      ...(hasEnd && !end && { DTEND: null, DURATION: { params: '', value: exactDuration(series.minutes) } }),
    }),
    now,
  )
}

type Written = Record<string, { params: string; value: string } | null>

const withMaster = (lines: ContentLine[], said: Written): ContentLine[] =>
  Object.entries(said).reduce((before, [name, property]) => {
    const range = masterIn(before)
    return range ? setProperty(before, range, name, property?.value ?? null, property?.params) : before
  }, lines)

/** The end of a date as DTSTART would tell it; null where its clock tells that time twice. */
function endLike(series: Series, id: string, minutes: number): { params: string; value: string } | null {
  const { clock } = series
  if (clock.whenOf(id).kind === 'date')
    return like(series, addDays(id.slice(0, 10), Math.max(1, Math.round(minutes / 1440))))
  const ms = clock.epochOf(id) + minutes * MINUTE
  const name = clock.nameAt(ms)
  return clock.epochOf(name) === ms ? like(series, name) : null
}

/** How many dates the rule itself gives before `id`, whatever was left out or moved of them. */
function datesBefore(series: Series, id: string): number {
  const left = new Set(linesNamed(series, 'EXDATE'))
  const bare = series.lines.filter((_, i) => !left.has(i))
  const ranges = componentsNamed(bare, 'VEVENT').filter(r => !isMaster(bare)(r))
  const text = textOf(without(bare, ranges))
  const from = occurrencesBetween(text, -8e15, series.clock.epochOf(id), 'UTC')
  return from.filter(o => o.recurrenceId < id).length
}

/** All dates move with this one; a rule that names days of the week or month cannot move to other days. */
function shifted(series: Series, id: string, time: Span, now: number): string {
  const { clock } = series
  const from = clock.whenOf(id)
  if ((from.kind === 'date') !== (time.anchor.kind === 'date'))
    throw new NotUnderstood(
      'A whole series cannot change between days and hours here. Do it in its own calendar.',
    )
  const to = time.anchor.kind === 'date' ? time.anchor.date : clock.nameAt(epochOf(time.anchor, 'UTC'))
  const days = daysBetween(id.slice(0, 10), to.slice(0, 10))
  const [rule] = linesNamed(series, 'RRULE')
  if (
    days !== 0 &&
    rule !== undefined &&
    /BY(DAY|MONTHDAY|YEARDAY|WEEKNO|SETPOS)=/i.test(series.lines[rule]?.value ?? '')
  )
    throw new NotUnderstood(
      'It repeats on days of its own choosing. Move it to another day in its own calendar.',
    )
  if (days !== 0) refuseListed(series)
  const wall = (name: string): number => Date.parse(name.length === 10 ? name : `${name.replace(/Z$/, '')}Z`)
  const by = wall(to) - wall(id)
  const move = (name: string): string => {
    const at = new Date(wall(name) + by).toISOString().slice(0, 19)
    return name.length === 10 ? at.slice(0, 10) : `${at}${name.endsWith('Z') ? 'Z' : ''}`
  }
  const lists = new Set([...linesNamed(series, 'EXDATE'), ...linesNamed(series, 'RDATE')])
  const ids = new Map(
    series.overrides.map(o => [propertiesOf(series.lines, o.range, 'RECURRENCE-ID')[0], o] as const),
  )
  let lines = series.lines.map((line, at) => {
    const override = ids.get(at)
    if (override) {
      const { params, value } = like(series, move(override.name))
      return written(line, `${params}${override.onward ? ';RANGE=THISANDFUTURE' : ''}`, value)
    }
    return lists.has(at) ? movedList(series, at, line, move, days) : line
  })
  lines = withUntil(lines, series, move, days)
  const [start] = linesNamed(series, 'DTSTART')
  const first = nameOfStart(series)
  return stamped(
    withMaster(lines, {
      DTSTART: { params: series.lines[start ?? -1]?.params ?? '', value: basic(move(first)) },
      DTEND: null,
      DURATION: {
        params: '',
        value:
          from.kind === 'date'
            ? `P${Math.max(1, Math.round(time.minutes / 1440))}D`
            : exactDuration(time.minutes),
      },
    }),
    now,
  )
}

const written = (line: ContentLine, params: string, value: string): ContentLine => ({
  ...line,
  params,
  value,
  raw: fold(`${line.name}${params}:${value}`, endOfLine(line)),
})

function nameOfStart(series: Series): string {
  const property = masterOf(parseCalendar(textOf(series.lines))).getFirstProperty('dtstart')
  const time = property?.getFirstValue() as unknown
  if (!(time instanceof ICAL.Time)) throw new NotUnderstood('Its start is not a date or a time.')
  return series.clock.nameOf(time, property?.getFirstParameter('tzid'))
}

/** Dates that are left out or added, moved, and told by the clock of the series from now on. */
function movedList(
  series: Series,
  at: number,
  line: ContentLine,
  move: (name: string) => string,
  days: number,
): ContentLine {
  const values = namedValues(series, at)
  if (values.some(v => v.name === null))
    throw new NotUnderstood('Some of its dates have lengths of their own. Change it in its own calendar.')
  const isAllDay = series.clock.whenOf(values[0]?.name ?? '').kind === 'date'
  // Whole days are left out of a series with hours: they are days still.
  if (values.every(v => v.isDay) && !isAllDay)
    return written(
      line,
      line.params,
      values.map(v => basic(addDays(v.name?.slice(0, 10) ?? '', days))).join(','),
    )
  const names = values.map(v => basic(move(v.name ?? '')))
  return written(line, like(series, '').params, names.join(','))
}

/** The last date moves with the others. */
function withUntil(
  lines: ContentLine[],
  series: Series,
  move: (name: string) => string,
  days: number,
): ContentLine[] {
  const { clock } = series
  return withRule(lines, parts =>
    parts.map(part => {
      const m = /^UNTIL=(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d)(Z?))?$/i.exec(part)
      if (!m) return part
      const [, y, mo, d, h, mi, s, z] = m
      if (h === undefined) return `UNTIL=${basic(addDays(`${y}-${mo}-${d}`, days))}`
      const local = `${y}-${mo}-${d}T${h}:${mi}:${s}`
      const name = z ? clock.nameAt(Date.parse(`${local}Z`)) : local
      const last = move(name)
      return `UNTIL=${z ? basicUtc(clock.epochOf(last)) : basic(last)}`
    }),
  )
}
