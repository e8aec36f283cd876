import type { Event, EventPatch, Span, Task, TaskPatch, Transparency } from '../items/items.ts'
import { inZone, sameWhen, toMinute, type When } from '../time/when.ts'
import type { Field, Raw, Rule } from './types.ts'

/**
 * How one field of a task and one of an event stand for each other. Each side keeps its own raw value;
 * a lens only says what the other side should be, given what it is now. Two laws are tested:
 *   back(forth(a, b), a) = a    what was written does not come back as an edit;
 *   forth(back(b, a), b) = b    what was cut or rounded does not destroy what it was cut from.
 */
export interface Lens<A = Raw, B = Raw> {
  field: Field
  /** The canonical properties the raw value is read from. */
  props: { a: string[]; b: string[] }
  readA(task: Task): A
  readB(event: Event, base: B | undefined): B
  /** Whether two raw values of the event differ by an edit of this field. */
  sameB(x: B, y: B): boolean
  forth(a: A, b: B | null, base: { a: A } | undefined): Put<B>
  back(b: B, a: A | null): Put<A>
  /** What else belongs to the event's own edit, such as showing it free once it is marked. */
  tidy?(b: B, base: B): B
}

export type Put<T> =
  | { kind: 'value'; value: T }
  /** The counterpart should not exist. */
  | { kind: 'absent'; reason: 'no-hour' | 'no-date' }
  /** Only a person can say. */
  | { kind: 'held'; reason: string }

const value = <T>(v: T): Put<T> => ({ kind: 'value', value: v })
export const sameRaw = (x: Raw, y: Raw): boolean => JSON.stringify(x) === JSON.stringify(y)

// --- title ---------------------------------------------------------------------------------------

export const UNTITLED = 'Untitled'

/** An event's title without the marks before it. */
export function splitMark(summary: string, mark: string): { marked: boolean; title: string } {
  let rest = summary
  while (rest.trimStart().startsWith(mark)) {
    rest = rest.trimStart().slice(mark.length)
    // One space is the mark's; any more belong to the title.
    if (rest.startsWith(' ')) rest = rest.slice(1)
  }
  return { marked: rest !== summary, title: rest }
}

export const withMark = (title: string, marked: boolean, mark: string): string =>
  marked ? `${mark} ${title}` : title

const cut = (text: string, max: number | null): string =>
  max === null || text.length <= max ? text : Array.from(text).slice(0, max).join('')

function titleLens(mark: string, max: number | null): Lens<string, string> {
  const toA = (b: string): string => cut(b.replace(/\s*[\r\n]+\s*/g, ' ').trim() || UNTITLED, max)
  const toB = (a: string): string => splitMark(a, mark).title
  return {
    field: 'title',
    props: { a: ['summary'], b: ['summary'] },
    readA: task => task.summary,
    readB: event => splitMark(event.summary, mark).title,
    sameB: (x, y) => x === y,
    forth(a, b) {
      if (b !== null && toA(b) === a) return value(b)
      if (b !== null && max !== null && Array.from(b).length > max && toB(a) !== b)
        return {
          kind: 'held',
          reason: `The task holds only the first ${max} characters of the event's title.`,
        }
      return value(toB(a))
    },
    back: (b, a) => value(a !== null && toB(a) === b ? a : toA(b)),
  }
}

// --- notes ---------------------------------------------------------------------------------------

const notesLens: Lens<string, string> = {
  field: 'notes',
  props: { a: ['description'], b: ['description'] },
  readA: task => task.description,
  readB: event => event.description,
  sameB: (x, y) => x === y,
  forth: a => value(a),
  back: b => value(b),
}

// --- completion ----------------------------------------------------------------------------------

export interface EventCompletion {
  marked: boolean
  transparency: Transparency
  /** What it was, or is, while the task is open. */
  open: Transparency
}

const completionLens = (mark: string): Lens<boolean, EventCompletion> => ({
  field: 'completion',
  props: { a: ['status'], b: ['summary'] },
  readA: task => task.status === 'completed',
  readB: (event, base) => {
    const { marked } = splitMark(event.summary, mark)
    const { transparency } = event
    return { marked, transparency, open: marked ? (base?.open ?? 'opaque') : transparency }
  },
  sameB: (x, y) => x.marked === y.marked,
  forth(done, b) {
    const open = b?.open ?? 'opaque'
    if (b && b.marked === done) return value(b)
    return value({ marked: done, transparency: done ? 'transparent' : open, open })
  },
  back: b => value(b.marked),
  tidy: (b, base) =>
    b.marked === base.marked
      ? b
      : { ...b, open: base.open, transparency: b.marked ? 'transparent' : base.open },
})

// --- time ----------------------------------------------------------------------------------------

export interface TaskTime {
  start: When | null
  /** Minutes. */
  estimate: number | null
}

function timeLens(rule: Rule): Lens<TaskTime, Span> {
  const { zone, settings, terms } = rule
  const toA = (anchor: When): When => toMinute(inZone(anchor, terms.a.zone ?? zone, zone))
  return {
    field: 'time',
    props: { a: ['start', 'estimatedDuration'], b: ['time'] },
    readA: task => ({ start: task.start, estimate: task.estimatedDuration }),
    readB: event => event.time,
    sameB: sameRaw,
    forth(a, b, base) {
      const allDay = b?.anchor.kind === 'date'
      if (a.start === null) return { kind: 'absent', reason: 'no-date' }
      if (a.start.kind === 'date')
        return b && allDay
          ? value({ anchor: a.start, minutes: b.minutes })
          : { kind: 'absent', reason: 'no-hour' }
      const planned = a.estimate ?? settings.defaultMinutes
      if (!b || allDay) return value({ anchor: a.start, minutes: planned })
      const reestimated = base !== undefined && a.estimate !== null && a.estimate !== base.a.estimate
      const home = b.anchor.kind === 'zoned' ? b.anchor.zone : zone
      return value({
        anchor: sameWhen(toA(b.anchor), a.start) ? b.anchor : inZone(a.start, home, zone),
        minutes: reestimated ? planned : b.minutes,
      })
    },
    back: (b, a) => value({ start: toA(b.anchor), estimate: a?.estimate ?? null }),
  }
}

// --- all of them ---------------------------------------------------------------------------------

/** The raw types differ from field to field; callers only pass a lens what it has itself read. */
const erase = <A, B>(lens: Lens<A, B>): Lens => lens as unknown as Lens

export function lensesOf(rule: Rule): Lens[] {
  const { mark, notes } = rule.settings
  return [
    erase(titleLens(mark, rule.terms.a.summaryMaxLength)),
    erase(timeLens(rule)),
    erase(completionLens(mark)),
    ...(notes ? [erase(notesLens)] : []),
  ]
}

/** Raw values for some or all of the fields. */
export type Values = Partial<Record<Field, Raw>>

export function taskPatchOf(values: Values): TaskPatch {
  const patch: TaskPatch = {}
  if ('title' in values) patch.summary = values.title as string
  if ('notes' in values) patch.description = values.notes as string
  if ('completion' in values) patch.status = values.completion ? 'completed' : 'needs-action'
  if ('time' in values) patch.start = (values.time as TaskTime).start
  return patch
}

/** `present` is the event being changed: title and mark share its summary. */
export function eventPatchOf(values: Values, present: Event | null, mark: string): EventPatch {
  const patch: EventPatch = {}
  const completion = values.completion as EventCompletion | undefined
  if ('title' in values || completion) {
    const now = splitMark(present?.summary ?? '', mark)
    const title = 'title' in values ? (values.title as string) : now.title
    patch.summary = withMark(title, completion?.marked ?? now.marked, mark)
  }
  if (completion) patch.transparency = completion.transparency
  if ('notes' in values) patch.description = values.notes as string
  if ('time' in values) patch.time = values.time as Span
  return patch
}
