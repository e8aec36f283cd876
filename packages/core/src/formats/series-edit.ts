import type { OccurrenceChange, SeriesPatch, Span } from '../items/items.ts'
import { dateOfClock } from '../recurrence/date-of-clock.ts'
import { occurrencesBetween } from '../recurrence/occurrences.ts'
import { addDays, daysBetween, epochOf, type When } from '../time/when.ts'
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
import { basicUtc, dateProperty, NotUnderstood } from '../ical/ical-values.ts'
import { endOf, parseEvent, patchComponent } from '../ical/vevent.ts'

/**
 * Changes a series (RFC 5545 §3.8.4.4 and §3.8.5): one date, this and later dates, or all. Lines that are not
 * changed keep their bytes. A date is named by its RECURRENCE-ID in the clock of the series.
 */

const basic = (id: string): string => id.replace(/[-:]/g, '')

interface Series {
  lines: ContentLine[]
  master: ComponentRange
  anchor: When
  minutes: number
}

function seriesIn(text: string): Series {
  const lines = parseLines(text)
  const master = componentsNamed(lines, 'VEVENT').find(
    e => propertiesOf(lines, e, 'RECURRENCE-ID').length === 0,
  )
  if (!master) throw new NotUnderstood('Only single dates of this series are known here.')
  if (propertiesOf(lines, master, 'RRULE').length > 1)
    throw new NotUnderstood('It repeats by several rules at once. Change it in its own calendar.')
  const { anchor, minutes } = parseEvent(text).time
  return { lines, master, anchor, minutes }
}

/** The parameters and value form of DTSTART, for another date of the same clock. */
function like({ lines, master }: Series, id: string): { params: string; value: string } {
  const at = propertiesOf(lines, master, 'DTSTART')[0]
  return { params: at === undefined ? '' : (lines[at]?.params ?? ''), value: basic(id) }
}

const overridesOf = (lines: readonly ContentLine[]): { range: ComponentRange; id: string }[] =>
  componentsNamed(lines, 'VEVENT').flatMap(range => {
    const at = propertiesOf(lines, range, 'RECURRENCE-ID')[0]
    return at === undefined ? [] : [{ range, id: lines[at]?.value ?? '' }]
  })

const without = (lines: readonly ContentLine[], ranges: readonly ComponentRange[]): ContentLine[] =>
  lines.filter((_, i) => !ranges.some(r => i >= r.begin && i <= r.end))

/** Throws NotUnderstood with the reason where a series is told in a way that cannot be changed here. */
export function patchSeries(text: string, patch: SeriesPatch, now: number): string {
  if (patch.do === 'back') return patch.text
  const series = seriesIn(text)
  switch (patch.do) {
    case 'change':
      return changed(series, patch.id, patch.change, now)
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

function changed(series: Series, id: string, change: OccurrenceChange, now: number): string {
  let { lines } = series
  const wanted = basic(id)
  const override = (of: readonly ContentLine[]): ComponentRange =>
    overridesOf(of).find(o => o.id === wanted)?.range ?? series.master
  let asRuled: Span | undefined
  if (!overridesOf(lines).some(o => o.id === wanted)) {
    const { master } = series
    const own = lines.slice(master.begin, master.end + 1).filter(l => !NOT_IN_OVERRIDE.has(l.name))
    const last = componentsNamed(lines, 'VEVENT').at(-1) ?? master
    const { params } = like(series, id)
    const named = parseLines(fold(`RECURRENCE-ID${params}:${wanted}`))
    lines = [
      ...lines.slice(0, last.end + 1),
      ...own.slice(0, 1),
      ...named,
      ...own.slice(1),
      ...lines.slice(last.end + 1),
    ]
    asRuled = { anchor: dateOfClock(series.anchor, id), minutes: series.minutes }
  }
  // First at the series' own time, so that an alarm with an absolute time moves along.
  if (asRuled) lines = patchComponent(lines, override, { time: asRuled }, now)
  return textOf(patchComponent(lines, override, change, now))
}

function dropped(series: Series, id: string, now: number): string {
  const wanted = basic(id)
  const gone = overridesOf(series.lines).filter(o => o.id === wanted)
  let lines = without(
    series.lines,
    gone.map(o => o.range),
  )
  const master = componentsNamed(lines, 'VEVENT').find(
    e => propertiesOf(lines, e, 'RECURRENCE-ID').length === 0,
  )
  if (!master) return textOf(lines)
  const known = propertiesOf(lines, master, 'EXDATE').some(i => lines[i]?.value.split(',').includes(wanted))
  if (!known) {
    const { params } = like(series, id)
    const made = parseLines(fold(`EXDATE${params}:${wanted}`))
    const at = propertiesOf(lines, master, 'DTSTART')[0] ?? master.begin
    lines = [...lines.slice(0, at + 1), ...made, ...lines.slice(at + 1)]
  }
  return stamped(lines, now)
}

function kept(series: Series, id: string, now: number): string {
  const wanted = basic(id)
  const lines = series.lines.flatMap((l, at) => {
    if (l.name !== 'EXDATE' || at < series.master.begin || at > series.master.end) return [l]
    const values = l.value.split(',')
    const value = values.filter(v => v !== wanted).join(',')
    if (value === '') return []
    const end = l.raw.endsWith('\r\n') ? '\r\n' : '\n'
    return values.includes(wanted) ? [{ ...l, value, raw: fold(`${l.name}${l.params}:${value}`, end) }] : [l]
  })
  return stamped(lines, now)
}

function stamped(lines: ContentLine[], now: number): string {
  const master = componentsNamed(lines, 'VEVENT')[0]
  return textOf(master ? setProperty(lines, master, 'DTSTAMP', basicUtc(now), '') : lines)
}

/** RFC 5545 §3.3.10: UNTIL is a day where the series has days, else an instant in UTC. */
function untilBefore(anchor: When, id: string): string {
  if (anchor.kind === 'date') return addDays(id.slice(0, 10), -1).replaceAll('-', '')
  if (anchor.kind === 'floating') {
    const before = new Date(Date.parse(`${id}Z`) - 1000).toISOString().slice(0, 19)
    return basic(before)
  }
  return basicUtc(epochOf(dateOfClock(anchor, id), 'UTC') - 1000)
}

function withRule(lines: ContentLine[], change: (parts: string[]) => string[]): ContentLine[] {
  const master = componentsNamed(lines, 'VEVENT').find(e => propertiesOf(lines, e, 'RRULE').length > 0)
  const at = master && propertiesOf(lines, master, 'RRULE')[0]
  if (!master || at === undefined) return lines
  return setProperty(lines, master, 'RRULE', change((lines[at]?.value ?? '').split(';')).join(';'))
}

function endedBefore(series: Series, id: string, now: number): string {
  refuseListed(series)
  const later = overridesOf(series.lines).filter(o => o.id >= basic(id))
  const lines = withRule(
    without(
      series.lines,
      later.map(o => o.range),
    ),
    parts => [...parts.filter(p => !/^(UNTIL|COUNT)=/i.test(p)), `UNTIL=${untilBefore(series.anchor, id)}`],
  )
  return stamped(lines, now)
}

function refuseListed({ lines, master }: Series): void {
  if (propertiesOf(lines, master, 'RDATE').length > 0)
    throw new NotUnderstood('Some of its dates are listed one by one. Change it in its own calendar.')
}

/** Whether `id` is the first date: what concerns it and later ones then concerns all. */
export function isFirst(text: string, id: string): boolean {
  const { anchor } = parseEvent(text).time
  const first = anchor.kind === 'date' ? anchor.date : anchor.local
  return basic(first) === basic(id.replace(/Z$/, ''))
}

/** The rest of a series as one of its own: from `id` on, with another uid. */
export function seriesFrom(text: string, id: string, uid: string, now: number): string {
  const series = seriesIn(text)
  refuseListed(series)
  const { anchor, minutes } = series
  const earlier = overridesOf(series.lines).filter(o => o.id < basic(id))
  let lines = without(
    series.lines,
    earlier.map(o => o.range),
  )
  lines = withRule(lines, parts =>
    parts.map(p => (/^COUNT=/i.test(p) ? `COUNT=${Number(p.slice(6)) - datesBefore(series, id)}` : p)),
  )
  for (const { begin } of componentsNamed(lines, 'VEVENT')) {
    const range = componentsNamed(lines, 'VEVENT').find(r => r.begin === begin)
    if (range) lines = setProperty(lines, range, 'UID', uid)
  }
  const master = (): ComponentRange | undefined =>
    componentsNamed(lines, 'VEVENT').find(e => propertiesOf(lines, e, 'RECURRENCE-ID').length === 0)
  const set = (name: string, value: string | null, params?: string): void => {
    const range = master()
    if (range) lines = setProperty(lines, range, name, value, params)
  }
  const { params, value } = like(series, id)
  set('DTSTART', value, params)
  const end = dateProperty(endOf({ anchor: dateOfClock(anchor, id), minutes }))
  const hasEnd = propertiesOf(series.lines, series.master, 'DTEND').length > 0
  if (hasEnd) set('DTEND', end.value, end.params)
  return stamped(lines, now)
}

/** How many dates the rule itself gives before `id`, whatever was left out or moved of them. */
function datesBefore({ lines, master, anchor }: Series, id: string): number {
  const bare = without(
    lines,
    overridesOf(lines).map(o => o.range),
  ).filter((l, i) => !(l.name === 'EXDATE' && i > master.begin))
  const from = epochOf(anchor, 'UTC')
  const to = epochOf(dateOfClock(anchor, id), 'UTC')
  return occurrencesBetween(textOf(bare), from, to, 'UTC').length
}

/** All dates move with this one; a rule that names days of the week or month cannot move to other days. */
function shifted(series: Series, id: string, time: Span, now: number): string {
  const { anchor } = series
  const from = dateOfClock(anchor, id)
  if ((from.kind === 'date') !== (time.anchor.kind === 'date'))
    throw new NotUnderstood(
      'A whole series cannot change between days and hours here. Do it in its own calendar.',
    )
  const dayOf = (w: When): string => (w.kind === 'date' ? w.date : w.local.slice(0, 10))
  const days = daysBetween(dayOf(from), dayOf(time.anchor))
  const rule = propertiesOf(series.lines, series.master, 'RRULE')[0]
  if (
    days !== 0 &&
    rule !== undefined &&
    /BY(DAY|MONTHDAY|YEARDAY|WEEKNO|SETPOS)=/i.test(series.lines[rule]?.value ?? '')
  )
    throw new NotUnderstood(
      'It repeats on days of its own choosing. Move it to another day in its own calendar.',
    )
  if (days !== 0) refuseListed(series)
  const wall = (w: When): number => (w.kind === 'date' ? Date.parse(w.date) : Date.parse(`${w.local}Z`))
  const by = wall(time.anchor) - wall(from)
  const move = (value: string): string =>
    value
      .split(',')
      .map(v => {
        const m = /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d))?(Z?)$/.exec(v)
        if (!m) return v
        const [, y, mo, d, h = '00', mi = '00', s = '00', z = ''] = m
        const at = new Date(Date.parse(`${y}-${mo}-${d}T${h}:${mi}:${s}Z`) + by).toISOString().slice(0, 19)
        return m[4] === undefined ? basic(at.slice(0, 10)) : `${basic(at)}${z}`
      })
      .join(',')
  const moved = new Set(['EXDATE', 'RDATE', 'RECURRENCE-ID'])
  let lines = series.lines.map(l => {
    if (!moved.has(l.name)) return l
    const value = move(l.value)
    return { ...l, value, raw: fold(`${l.name}${l.params}:${value}`, l.raw.endsWith('\r\n') ? '\r\n' : '\n') }
  })
  const set = (name: string, value: string | null, params?: string): void => {
    const range = componentsNamed(lines, 'VEVENT').find(
      e => propertiesOf(lines, e, 'RECURRENCE-ID').length === 0,
    )
    if (range) lines = setProperty(lines, range, name, value, params)
  }
  const first = series.anchor
  const at = like(series, id)
  const start = propertiesOf(series.lines, series.master, 'DTSTART')[0]
  set('DTSTART', move(start === undefined ? at.value : (series.lines[start]?.value ?? at.value)))
  set('DTEND', null)
  set(
    'DURATION',
    first.kind === 'date'
      ? `P${Math.max(1, Math.round(time.minutes / 1440))}D`
      : `PT${Math.round(time.minutes)}M`,
  )
  return stamped(lines, now)
}
