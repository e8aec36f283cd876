import { Temporal } from 'temporal-polyfill'
import { z } from 'zod'
import { type Event, type Item, newEvent, newTask, type Task } from '../items/items.ts'
import { exactDuration, parseDuration } from '../time/duration.ts'
import { DAY_MINUTES, epochOf, isKnownZone, MINUTE, type When, zonedAt } from '../time/when.ts'
import { fieldsOf, type FileContents, type FileEntry } from './file-entry.ts'
import { mustBeKept, readCalendarObject } from './boundary.ts'
import { dateProperty } from '../ical/ical-values.ts'
import { NotUnderstood, understand } from '../ical/not-understood.ts'
import { type RecurrenceRule, type Series, seriesKey, seriesOf, withSeries } from './series.ts'
import { composeEvent } from '../ical/vevent.ts'
import { composeTask } from './vtodo.ts'

/** JSCalendar (RFC 8984): a group of events and tasks, in and out. */

const Local = z.string().regex(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$/, 'is not a local date and time')
const Utc = z.string().regex(/Z$/, 'is not in UTC')
const Rule = z.looseObject({
  frequency: z.enum(['yearly', 'monthly', 'weekly', 'daily', 'hourly', 'minutely', 'secondly']),
  // Some write a day alone, which counts to its end.
  until: z
    .string()
    .regex(/^\d{4}-\d\d-\d\d(T\d\d:\d\d:\d\d)?$/, 'is not a local date and time')
    .transform(until => (until.length === 10 ? `${until}T23:59:59` : until))
    .optional(),
  rscale: z
    .string()
    .regex(/^gregorian$/i, 'is a calendar that is not worked out')
    .optional(),
  skip: z.literal('omit', 'puts days that do not exist on others, which is not worked out').optional(),
})

const shared = {
  uid: z.string().min(1).max(500),
  title: z.string().default(''),
  description: z.string().default(''),
  created: Utc.nullish(),
  updated: Utc.nullish(),
  start: Local.nullish(),
  timeZone: z.string().nullish(),
  showWithoutTime: z.boolean().default(false),
  priority: z.number().int().min(0).max(9).default(0),
  keywords: z.record(z.string(), z.literal(true)).nullish(),
  links: z.record(z.string(), z.looseObject({ href: z.string() })).nullish(),
  privacy: z.enum(['public', 'private', 'secret']).default('public'),
  locations: z.record(z.string(), z.looseObject({ name: z.string().default('') })).nullish(),
  recurrenceRules: z.array(Rule).nullish(),
  excludedRecurrenceRules: z
    .array(z.unknown())
    .max(0, 'leaves out dates by a rule, which is not worked out')
    .nullish(),
  recurrenceOverrides: z.record(Local, z.record(z.string(), z.unknown())).nullish(),
}
const JsEvent = z.looseObject({
  ...shared,
  '@type': z.literal('Event'),
  start: Local,
  duration: z.string().default('PT0S'),
  status: z.enum(['confirmed', 'tentative', 'cancelled']).default('confirmed'),
  freeBusyStatus: z.enum(['busy', 'free']).default('busy'),
})
/** RFC 8984 has no word for a date alone beside a time; this one says which of the two is one. */
const DATES = 'amber-loom.example:dates'
/** Nor for what begins only after another, and so long after it (iCalendar's FINISHTOSTART and GAP, RFC 9253). */
const AFTER = 'amber-loom.example:after'
const GAP = 'amber-loom.example:gap'
const JsTask = z.looseObject({
  ...shared,
  '@type': z.literal('Task'),
  due: Local.nullish(),
  estimatedDuration: z.string().nullish(),
  progress: z
    .enum(['needs-action', 'in-process', 'completed', 'failed', 'cancelled'])
    .default('needs-action'),
  progressUpdated: Utc.nullish(),
  relatedTo: z
    .record(
      z.string(),
      z.looseObject({ relation: z.record(z.string(), z.boolean()).nullish(), [GAP]: z.string().nullish() }),
    )
    .nullish(),
  [DATES]: z.array(z.enum(['start', 'due'])).nullish(),
})
const JsItem = z.discriminatedUnion('@type', [JsEvent, JsTask])
type JsItem = z.infer<typeof JsItem>
type JsTask = z.infer<typeof JsTask>
type JsEvent = z.infer<typeof JsEvent>

const PRIVACY = { public: 'public', private: 'private', secret: 'confidential' } as const

function whenIn(local: string, js: Pick<JsItem, 'timeZone' | 'showWithoutTime'>, date = false): When {
  if (js.showWithoutTime || date) return { kind: 'date', date: local.slice(0, 10) }
  if (!js.timeZone) return { kind: 'floating', local }
  const zone = js.timeZone === 'Etc/UTC' ? 'UTC' : js.timeZone
  if (!isKnownZone(zone)) throw new NotUnderstood(`Its time zone, ${zone}, is not known.`)
  return { kind: 'zoned', local, zone }
}

/** Days by the calendar, the rest by the clock (RFC 8984 §1.4.6); minutes of exact time. */
function minutesFrom(anchor: When, duration: string): number {
  const parsed = parseDuration(duration)
  if (!parsed) throw new NotUnderstood(`Its length, ${duration}, is not a duration.`)
  if (anchor.kind === 'date') return Math.max(1, parsed.days + parsed.seconds / 86_400) * DAY_MINUTES
  const zone = anchor.kind === 'zoned' ? anchor.zone : 'UTC'
  const end = Temporal.PlainDateTime.from(anchor.local).toZonedDateTime(zone).add({ days: parsed.days })
  return (end.epochMilliseconds - epochOf(anchor, zone)) / MINUTE + parsed.seconds / 60
}

const linkIn = (js: JsItem): string | null =>
  Object.values(js.links ?? {}).find(l => /^https?:\/\//i.test(l.href))?.href ?? null

const stampsOf = (js: JsItem) => ({ created: js.created ?? null, lastModified: js.updated ?? null })

function taskIn(js: JsTask): Task {
  const dates = new Set(js[DATES] ?? [])
  const estimate = js.estimatedDuration ? parseDuration(js.estimatedDuration) : null
  const status = js.progress === 'failed' ? 'cancelled' : js.progress
  const related = Object.entries(js.relatedTo ?? {})
  const parent = related.find(([, r]) => r.relation?.parent === true)
  const waitsFor = related.flatMap(([uid, r]) => {
    const gap = parseDuration(r[GAP] ?? 'PT0S')
    return r.relation?.[AFTER] !== true
      ? []
      : [{ uid, gap: gap ? Math.round(gap.days * DAY_MINUTES + gap.seconds / 60) : 0 }]
  })
  return {
    ...newTask(js.uid, {
      summary: js.title,
      description: js.description,
      status,
      start: js.start ? whenIn(js.start, js, dates.has('start')) : null,
      due: js.due ? whenIn(js.due, js, dates.has('due')) : null,
      estimatedDuration: estimate && Math.round(estimate.days * DAY_MINUTES + estimate.seconds / 60),
      priority: js.priority,
      categories: Object.keys(js.keywords ?? {}),
      parent: parent?.[0] ?? null,
      ...(waitsFor.length > 0 && { waitsFor }),
      ...(placeIn(js) && { location: placeIn(js) }),
      url: linkIn(js),
    }),
    serviceStatus: status,
    completed: status === 'completed' ? (js.progressUpdated ?? null) : null,
    ...stampsOf(js),
  }
}

/** The first of several (RFC 8984 §4.2.5). */
const placeIn = ({ locations }: JsItem): string => Object.values(locations ?? {})[0]?.name ?? ''

function eventIn(js: JsEvent): Event {
  const anchor = whenIn(js.start, js)
  return {
    ...newEvent(
      js.uid,
      { anchor, minutes: minutesFrom(anchor, js.duration) },
      {
        summary: js.title,
        description: js.description,
        location: placeIn(js),
        transparency: js.freeBusyStatus === 'free' ? 'transparent' : 'opaque',
        class: PRIVACY[js.privacy],
        categories: Object.keys(js.keywords ?? {}),
        url: linkIn(js),
      },
    ),
    status: js.status,
    ...stampsOf(js),
  }
}

/** What a date may say otherwise than its series. */
const OF_A_DATE = [
  'title',
  'description',
  'locations',
  'freeBusyStatus',
  'privacy',
  'priority',
  'keywords',
  'status',
  'progress',
  'start',
  'duration',
]

/** A patch of paths (RFC 8984 §1.4.9) as whole values of the properties that can differ. Throws NotUnderstood. */
function wholePatch(js: JsItem, patch: Record<string, unknown>): Record<string, unknown> {
  const changed = structuredClone(js) as Record<string, unknown>
  for (const [path, value] of Object.entries(patch)) {
    const steps = path.split('/').map(s => s.replace(/~1/g, '/').replace(/~0/g, '~'))
    const last = steps.pop() ?? ''
    let at: Record<string, unknown> = changed
    for (const step of steps) {
      const next = Object.hasOwn(at, step) ? at[step] : undefined
      if (typeof next !== 'object' || next === null)
        throw new NotUnderstood(`One of its dates changes ${path.slice(0, 60)}, which it does not have.`)
      at = next as Record<string, unknown>
    }
    if (last === '__proto__') throw new NotUnderstood('One of its dates changes what cannot be changed.')
    at[last] = value
  }
  return Object.fromEntries(
    OF_A_DATE.filter(
      key => JSON.stringify(changed[key]) !== JSON.stringify((js as Record<string, unknown>)[key]),
    ).map(key => [key, changed[key] ?? null]),
  )
}

function seriesIn(js: JsItem): Series | null {
  const overrides = Object.fromEntries(
    Object.entries(js.recurrenceOverrides ?? {}).map(([local, patch]) => [
      local,
      patch.excluded === true ? { excluded: true } : wholePatch(js, patch),
    ]),
  )
  const rules = (js.recurrenceRules ?? []).map(r => ({ '@type': 'RecurrenceRule', ...r }) as RecurrenceRule)
  return rules.length === 0 && Object.keys(overrides).length === 0 ? null : { rules, overrides }
}

function entryOf(js: JsItem, now: number): FileEntry {
  const item: Item = js['@type'] === 'Task' ? taskIn(js) : eventIn(js)
  const series = seriesIn(js)
  const says = fieldsOf(item.kind)
  mustBeKept(item)
  if (!series) return { item, says, original: null, series: null }
  const anchor = item.kind === 'task' ? item.start : item.time.anchor
  if (!anchor) throw new NotUnderstood('It repeats, but has no start.')
  const zone = anchor.kind === 'zoned' ? anchor.zone : null
  const text = item.kind === 'task' ? composeTask(item, now) : composeEvent(item, now)
  const original = withSeries(text, series, {
    component: item.kind === 'task' ? 'VTODO' : 'VEVENT',
    params: dateProperty(anchor).params,
    utc: zone === 'UTC',
    epoch: zone ? local => epochOf({ kind: 'zoned', local, zone }, zone) : null,
  })
  // The result is read back like any calendar object: rules and dates are checked there.
  const read = readCalendarObject(original)
  if (read.kind === 'not-understood') throw new NotUnderstood(read.because)
  return { item: { ...item, recurring: true }, says, original, series: seriesKey(seriesOf(original)) }
}

const Group = z.looseObject({ '@type': z.literal('Group'), entries: z.array(z.unknown()) })

/** A group, a list, or a single event or task; null for what is no JSCalendar. */
export function* readJsCalendar(text: string, now: number): Generator<null, FileContents | null> {
  let json: unknown
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''))
  } catch {
    return null
  }
  const group = Group.safeParse(json)
  const list: unknown[] = group.success ? group.data.entries : Array.isArray(json) ? json : [json]
  const typed = (v: unknown): boolean =>
    /^(Event|Task)$/.test(String((v as { '@type'?: unknown })?.['@type']))
  if (list.length > 0 && !list.some(typed)) return null
  const contents: FileContents = { entries: [], problems: [] }
  for (const [i, raw] of list.entries()) {
    const named = raw as { title?: unknown; uid?: unknown } | null
    const where = String(named?.title || named?.uid || `entry ${i + 1}`).slice(0, 200)
    const parsed = JsItem.safeParse(raw)
    if (!parsed.success) {
      const [issue] = parsed.error.issues
      contents.problems.push({ where, reason: `${issue?.path.join('/') || 'It'}: ${issue?.message ?? ''}.` })
    } else {
      const read = understand(() => entryOf(parsed.data, now))
      if (read.kind === 'understood') contents.entries.push(read.value)
      else contents.problems.push({ where, reason: read.because })
    }
    yield null
  }
  return contents
}

/** A local time of `when` in the zone that the whole object is told in. */
function localIn(when: When, zone: string | null): string {
  if (when.kind === 'date') return `${when.date}T00:00:00`
  if (when.kind === 'floating' || !zone || when.zone === zone) return when.local
  const local = zonedAt(epochOf(when, zone), zone)
  return local.kind === 'zoned' ? local.local : when.local
}

const stamp = (iso: string | null, now: number): string =>
  new Date(iso ? Date.parse(iso) : now).toISOString().replace(/\.\d+Z$/, 'Z')

function common(item: Item, whens: (When | null)[]): { json: Record<string, unknown>; zone: string | null } {
  const zoned = whens.find(w => w?.kind === 'zoned')
  const zone = zoned?.kind === 'zoned' ? zoned.zone : null
  const json: Record<string, unknown> = {
    '@type': item.kind === 'task' ? 'Task' : 'Event',
    uid: item.uid,
    title: item.summary,
  }
  if (item.description) json.description = item.description
  if (item.categories.length > 0) json.keywords = Object.fromEntries(item.categories.map(c => [c, true]))
  if (item.url) json.links = { 1: { '@type': 'Link', href: item.url } }
  if (item.location) json.locations = { 1: { '@type': 'Location', name: item.location } }
  if (zone) json.timeZone = zone === 'UTC' ? 'Etc/UTC' : zone
  return { json, zone }
}

/** One object may be both: a part of it, and only to be done after it. */
function relationsOf({ parent, waitsFor = [] }: Task): Record<string, object> {
  const names = new Set([...(parent ? [parent] : []), ...waitsFor.map(w => w.uid)])
  return Object.fromEntries(
    [...names].map(uid => {
      const wait = waitsFor.find(w => w.uid === uid)
      const relation = { ...(uid === parent && { parent: true }), ...(wait && { [AFTER]: true }) }
      return [uid, { '@type': 'Relation', relation, ...(wait?.gap && { [GAP]: exactDuration(wait.gap) }) }]
    }),
  )
}

/** `original` is the calendar object of a series; without one, only the first date of a series is told. */
export function jsCalendarOf(item: Item, original: string | null, now: number): Record<string, unknown> {
  const whens = item.kind === 'task' ? [item.start, item.due] : [item.time.anchor]
  const { json, zone } = common(item, whens)
  json.updated = stamp(item.lastModified, now)
  if (item.created) json.created = stamp(item.created, now)
  const dates = whens.filter(w => w?.kind === 'date').length
  if (dates > 0 && dates === whens.filter(Boolean).length) json.showWithoutTime = true
  if (item.kind === 'task') {
    const { start, due, estimatedDuration, status, priority } = item
    if (start) json.start = localIn(start, zone)
    if (due) json.due = localIn(due, zone)
    const mixed = (['start', 'due'] as const).filter(name => item[name]?.kind === 'date')
    if (mixed.length === 1 && !json.showWithoutTime) json[DATES] = mixed
    if (estimatedDuration) json.estimatedDuration = exactDuration(estimatedDuration)
    if (status !== 'needs-action') json.progress = status
    if (status === 'completed' && item.completed) json.progressUpdated = stamp(item.completed, now)
    if (priority) json.priority = priority
    const related = relationsOf(item)
    if (Object.keys(related).length > 0) json.relatedTo = related
  } else {
    const { time, transparency, status } = item
    json.start = localIn(time.anchor, zone)
    json.duration =
      time.anchor.kind === 'date'
        ? `P${Math.max(1, Math.round(time.minutes / DAY_MINUTES))}D`
        : exactDuration(time.minutes)
    if (transparency === 'transparent') json.freeBusyStatus = 'free'
    if (status !== 'confirmed') json.status = status
    if (item.class !== 'public') json.privacy = item.class === 'private' ? 'private' : 'secret'
  }
  const series = original && /^BEGIN:VCALENDAR/i.test(original) && item.recurring ? seriesOf(original) : null
  if (series) {
    if (series.rules.length > 0) json.recurrenceRules = series.rules
    if (Object.keys(series.overrides).length > 0) json.recurrenceOverrides = series.overrides
  }
  return json
}

export const writeJsCalendar = (entries: readonly object[], uid: string, now: number): string =>
  `${JSON.stringify({ '@type': 'Group', uid, updated: stamp(null, now), prodId: '-//Amber Loom//EN', entries }, null, 1)}\n`
