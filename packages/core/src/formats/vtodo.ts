import type ICAL from 'ical.js'
import type { Task, TaskPatch, WaitsFor } from '../items/items.ts'
import { safeLink } from '../items/link.ts'
import { durationMinutes, exactDuration } from '../time/duration.ts'
import { epochOf, type When } from '../time/when.ts'
import {
  type ComponentRange,
  type ContentLine,
  componentsNamed,
  escapeText,
  fold,
  parseLines,
  propertiesOf,
  setCategories,
  setProperty,
  textOf,
} from '../ical/content-lines.ts'
import { behind, completeRound, laterBy, todoRound } from '../recurrence/todo-rounds.ts'
import {
  basicUtc,
  dateProperty,
  instantOf,
  NotUnderstood,
  oneOf,
  parseCalendar,
  stringOf,
  whenOf,
  withZone,
} from '../ical/ical-values.ts'

/** Reads and edits a calendar object resource that holds one task, VTODO (RFC 5545 §3.6.2). */

const STATUSES = ['needs-action', 'in-process', 'completed', 'cancelled'] as const

const isMaster = (c: ICAL.Component): boolean => !c.hasProperty('recurrence-id')

const dateOf = (c: ICAL.Component, name: string): When | null => {
  const prop = c.getFirstProperty(name)
  return prop ? whenOf(prop) : null
}

/** Minutes: ESTIMATED-DURATION where a server keeps it, else from DTSTART and DURATION. */
function estimateOf(todo: ICAL.Component): number | null {
  const own = stringOf(todo, 'estimated-duration') || stringOf(todo, 'duration')
  return Math.round(durationMinutes(own) ?? 0) || null
}

const typeOf = (p: ICAL.Property): string => String(p.getParameter('reltype') ?? 'PARENT').toUpperCase()
const FINISH_TO_START = 'FINISHTOSTART'
const MOST_WAITS = 100

const relatedAs = (todo: ICAL.Component, type: string): ICAL.Property[] =>
  todo.getAllProperties('related-to').filter(p => typeOf(p) === type)

/** What it waits for; a gap that is no duration is none. */
function waitsOf(todo: ICAL.Component): WaitsFor[] {
  return relatedAs(todo, FINISH_TO_START)
    .map(p => ({
      uid: String(p.getFirstValue()),
      gap: Math.max(0, Math.round(durationMinutes(String(p.getParameter('gap') ?? '')) ?? 0)),
    }))
    .filter(w => w.uid !== '')
    .slice(0, MOST_WAITS)
}

/** Throws NotUnderstood with the reason. */
export function parseTask(text: string, calendar = parseCalendar(text)): Task {
  const todos = calendar.getAllSubcomponents('vtodo')
  const todo = todos.find(isMaster) ?? todos[0]
  if (!todo) throw new NotUnderstood('It holds no task.')
  const uid = stringOf(todo, 'uid')
  if (!uid) throw new NotUnderstood('It has no UID.')
  const round = todoRound(todos)
  const by = round === null ? 0 : behind(text, todos)
  const at = (name: string): When | null => {
    const when = dateOf(todo, name)
    return when && by !== 0 ? laterBy(when, by) : when
  }
  const [start, due] = [at('dtstart'), at('due')]
  if (start && due && epochOf(due, 'UTC') < epochOf(start, 'UTC') && start.kind === due.kind)
    throw new NotUnderstood('It is due before it starts.')
  const completed = instantOf(todo, 'completed')
  const status = oneOf(stringOf(todo, 'status'), STATUSES, completed ? 'completed' : 'needs-action')
  const priority = Number(stringOf(todo, 'priority')) || 0
  const waits = waitsOf(todo)
  const location = stringOf(todo, 'location')
  return {
    kind: 'task',
    uid,
    summary: stringOf(todo, 'summary'),
    description: stringOf(todo, 'description'),
    status,
    serviceStatus: status,
    priority: Math.min(9, Math.max(0, Math.round(priority))),
    start,
    due,
    estimatedDuration: estimateOf(todo),
    completed,
    categories: todo.getAllProperties('categories').flatMap(p => p.getValues().map(String)),
    assignees: todo.getAllProperties('attendee').map(p => String(p.getFirstValue()).replace(/^mailto:/i, '')),
    parent: String(relatedAs(todo, 'PARENT')[0]?.getFirstValue() ?? '') || null,
    ...(waits.length > 0 && { waitsFor: waits }),
    ...(location && { location }),
    occurrence: round,
    recurring: todo.hasProperty('rrule') || todo.hasProperty('rdate') || todos.length > 1,
    url: safeLink(stringOf(todo, 'url')),
    created: instantOf(todo, 'created'),
    lastModified: instantOf(todo, 'last-modified') ?? instantOf(todo, 'dtstamp'),
  }
}

function todoRange(lines: readonly ContentLine[]): ComponentRange {
  const todos = componentsNamed(lines, 'VTODO')
  const master = todos.find(t => propertiesOf(lines, t, 'RECURRENCE-ID').length === 0) ?? todos[0]
  if (!master) throw new NotUnderstood('It holds no task.')
  return master
}

const relationOf = ({ params }: ContentLine): string =>
  /;RELTYPE="?([^;:"]+)/i.exec(params)?.[1]?.toUpperCase() ?? 'PARENT'

/** Only relations of this kind change, and of these only what is not so already. */
function related(lines: readonly ContentLine[], type: string, wanted: readonly WaitsFor[]): ContentLine[] {
  const at = todoRange(lines)
  const there = propertiesOf(lines, at, 'RELATED-TO').filter(i => {
    const line = lines[i]
    return line !== undefined && relationOf(line) === type
  })
  const gapOf = (line: ContentLine | undefined): number =>
    Math.round(durationMinutes(/;GAP="?([^;:"]+)/i.exec(line?.params ?? '')?.[1] ?? '') ?? 0)
  const isKept = (i: number): boolean =>
    wanted.some(w => w.uid === lines[i]?.value && w.gap === gapOf(lines[i]))
  const kept = new Set(there.filter(isKept).map(i => lines[i]?.value))
  const dropped = new Set(there.filter(i => !isKept(i)))
  const rest = lines.filter((_, i) => !dropped.has(i))
  const end = lines[at.begin]?.raw.endsWith('\r\n') === false ? '\n' : '\r\n'
  const made = wanted
    .filter(w => !kept.has(w.uid))
    .map(({ uid, gap }): ContentLine => {
      const kind = type === 'PARENT' ? '' : `;RELTYPE=${type}`
      const params = gap > 0 ? `${kind};GAP=${exactDuration(gap)}` : kind
      const value = uid.replace(/[\r\n]+/g, ' ')
      return { name: 'RELATED-TO', params, value, raw: fold(`RELATED-TO${params}:${value}`, end) }
    })
  const range = todoRange(rest)
  const inner = rest.findIndex((l, i) => i > range.begin && i < range.end && l.name === 'BEGIN')
  const before = inner === -1 ? range.end : inner
  return [...rest.slice(0, before), ...made, ...rest.slice(before)]
}

/** `text` with `patch` written into its task and every other byte kept. `now` in epoch milliseconds. */
export function patchTask(text: string, patch: TaskPatch, now: number): string {
  if (patch.status === 'completed') {
    const todos = parseCalendar(text).getAllSubcomponents('vtodo')
    const next = completeRound(text, todos, now)
    const { status: _, serviceStatus: __, ...rest } = patch
    if (next !== null) return Object.keys(rest).length > 0 ? patchTask(next, rest, now) : next
  }
  let lines = parseLines(text)
  const set = (name: string, value: string | null, params?: string): void => {
    lines = setProperty(lines, todoRange(lines), name, value, params)
  }
  const date = (name: string, when: When | null): void => {
    if (!when) return set(name, null)
    const { value, params } = dateProperty(when)
    set(name, value, params)
    lines = withZone(lines, when)
  }
  if (patch.summary !== undefined) set('SUMMARY', escapeText(patch.summary))
  if (patch.description !== undefined)
    set('DESCRIPTION', patch.description ? escapeText(patch.description) : null)
  if (patch.start !== undefined) date('DTSTART', patch.start)
  if (patch.due !== undefined) {
    date('DUE', patch.due)
    // RFC 5545 §3.6.2: DUE and DURATION exclude each other.
    if (patch.due) set('DURATION', null)
  }
  if (patch.estimatedDuration !== undefined)
    set(
      'ESTIMATED-DURATION',
      patch.estimatedDuration ? exactDuration(patch.estimatedDuration) : null,
      ';VALUE=DURATION',
    )
  if (patch.priority !== undefined) set('PRIORITY', patch.priority ? String(patch.priority) : null)
  if (patch.categories !== undefined) lines = setCategories(lines, todoRange(lines), patch.categories)
  if (patch.parent !== undefined)
    lines = related(lines, 'PARENT', patch.parent === null ? [] : [{ uid: patch.parent, gap: 0 }])
  if (patch.waitsFor !== undefined) lines = related(lines, FINISH_TO_START, patch.waitsFor)
  if (patch.url !== undefined) set('URL', patch.url)
  if (patch.location !== undefined) set('LOCATION', patch.location ? escapeText(patch.location) : null)
  if (patch.status !== undefined) {
    set('STATUS', patch.status.toUpperCase())
    const done = patch.status === 'completed'
    set('COMPLETED', done ? basicUtc(now) : null)
    if (done) set('PERCENT-COMPLETE', '100')
    else if (propertiesOf(lines, todoRange(lines), 'PERCENT-COMPLETE').some(i => lines[i]?.value === '100'))
      set('PERCENT-COMPLETE', null)
  }
  set('DTSTAMP', basicUtc(now), '')
  if (propertiesOf(lines, todoRange(lines), 'LAST-MODIFIED').length > 0)
    set('LAST-MODIFIED', basicUtc(now), '')
  return textOf(lines)
}

/** A new calendar object resource for `task`. */
export function composeTask(task: Task, now: number): string {
  const stamp = basicUtc(now)
  const shell = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Amber Loom//EN',
    'BEGIN:VTODO',
    `UID:${task.uid}`,
    `DTSTAMP:${stamp}`,
    `CREATED:${task.created ? basicUtc(Date.parse(task.created)) : stamp}`,
    'END:VTODO',
    'END:VCALENDAR',
  ]
  const { summary, description, status, start, due, estimatedDuration, priority } = task
  const { categories, parent, url, waitsFor, location } = task
  const patch: TaskPatch = {
    summary,
    status,
    ...(description && { description }),
    ...(start && { start }),
    ...(due && { due }),
    ...(estimatedDuration && { estimatedDuration }),
    ...(priority && { priority }),
    ...(categories.length > 0 && { categories }),
    ...(parent && { parent }),
    ...(waitsFor && { waitsFor }),
    ...(url && { url }),
    ...(location && { location }),
  }
  const at = task.completed && status === 'completed' ? Date.parse(task.completed) : now
  return patchTask(shell.map(l => fold(l)).join(''), patch, Number.isNaN(at) ? now : at)
}
