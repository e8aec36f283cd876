import { createHash } from 'node:crypto'
import {
  NotUnderstood,
  ofOwn,
  epochOf,
  inZone,
  type Meaning,
  MINUTE,
  priorityToWrite,
  statusToWrite,
  type Task,
  type TaskPatch,
  toMinute,
  type When,
  zonedAt,
} from '@loom/core'
import type { Field, FieldName, ServiceDescription } from './description.ts'
import { listAt, putAt, textAt, valueAt } from './pointer.ts'

/** Between an item as the service tells it and the canonical task, by the description's fields. */

export interface FieldContext {
  description: ServiceDescription
  meaning: Meaning
  /** In which the service tells its local hours. */
  zone: string
  /** Ids of words, such as those of a column, and what they are called. */
  words: Map<string, string>
}

const DAY = /^\d{4}-\d\d-\d\d$/
const MOMENT = /^(\d{4}-\d\d-\d\d)(?:T(\d\d:\d\d)(?::\d\d)?)?$/

/** The service's form of something we cannot take; the reason is a sentence. */
export class OddValue extends NotUnderstood {}

/** A field's pointer with the user's column in it; null where no column has the role. */
export function pointerOf(pointer: string, field: Field, meaning: Meaning): string | null {
  if (!field.role) return pointer
  const column = ofOwn(meaning.columns, field.role)
  return column ? pointer.replace('{column}', column.replace(/~/g, '~0').replace(/\//g, '~1')) : null
}

const isDay = (text: string): boolean => DAY.test(text) && !Number.isNaN(Date.parse(text))

function momentOf(text: string, zone: string): When {
  const m = MOMENT.exec(text)
  if (!m?.[1] || !isDay(m[1])) throw new OddValue(`“${text}” is not a date.`)
  return m[2] ? { kind: 'zoned', local: `${m[1]}T${m[2]}:00`, zone } : { kind: 'date', date: m[1] }
}

function instantOf(value: unknown, form: 'iso' | 'epoch-seconds' | 'epoch-ms'): number | null {
  if (value === null || value === undefined || value === '') return null
  const ms = form === 'iso' ? Date.parse(String(value)) : Number(value) * (form === 'epoch-ms' ? 1 : 1000)
  if (!Number.isFinite(ms) || Math.abs(ms) > 8e15) throw new OddValue(`“${String(value)}” is not a time.`)
  return ms
}

function whenAt(
  raw: unknown,
  field: Field,
  at: string,
  ctx: FieldContext,
): { when: When | null; minutes: number | null } {
  if (field.as === 'instant') {
    const ms = instantOf(valueAt(raw, at), field.form)
    return { when: ms === null ? null : zonedAt(ms, ctx.zone), minutes: null }
  }
  const text = textAt(raw, at)
  if (!text) return { when: null, minutes: null }
  if (field.as === 'day-and-hour') {
    const hour = textAt(raw, field.hourAt)
    return { when: momentOf(hour ? `${text}T${hour}` : text, ctx.zone), minutes: null }
  }
  const when = momentOf(text, ctx.zone)
  const endAt = field.as === 'moment' && field.endAt ? pointerOf(field.endAt, field, ctx.meaning) : null
  const end = endAt === null ? '' : textAt(raw, endAt)
  const until = end ? momentOf(end, ctx.zone) : null
  const minutes =
    until && until.kind === when.kind && when.kind !== 'date'
      ? (epochOf(until, ctx.zone) - epochOf(when, ctx.zone)) / MINUTE
      : null
  return { when, minutes: minutes !== null && minutes > 0 ? minutes : null }
}

const isoAt = (raw: unknown, field: Field | undefined): string | null => {
  if (!field) return null
  const ms = instantOf(valueAt(raw, field.at), field.as === 'instant' ? field.form : 'iso')
  return ms === null ? null : new Date(ms).toISOString()
}

const idAt = (value: unknown, each: string): string => {
  const id = each === '' ? value : valueAt(value, each)
  return typeof id === 'string' || typeof id === 'number' ? String(id) : ''
}

/** Whether a value says anything: a rule, a word, a list with something in it. */
const isThere = (value: unknown): boolean =>
  Array.isArray(value) ? value.length > 0 : ![undefined, null, false, '', 0].includes(value as never)

/** Our own reference, where it stands in the notes because the service has no place for one. */
export const markerOf = (uid: string): string => `[loom ${encodeURIComponent(uid)}]`
const MARKER = /\n*\[loom ([^\]\s]+)\]\s*$/

export function readTask(raw: unknown, ctx: FieldContext): { task: Task; unknownStatus: string | null } {
  const { fields } = ctx.description
  const { meaning } = ctx
  const at = (name: FieldName): { field: Field; at: string } | null => {
    const field = fields[name]
    const pointer = field && pointerOf(field.at, field, meaning)
    return field && pointer !== null && pointer !== undefined ? { field, at: pointer } : null
  }
  const text = (name: FieldName): string => {
    const f = at(name)
    return f ? textAt(raw, f.at) : ''
  }
  const when = (name: 'start' | 'due') => {
    const f = at(name)
    return f ? whenAt(raw, f.field, f.at, ctx) : { when: null, minutes: null }
  }
  const list = (name: FieldName): string[] => {
    const f = at(name)
    if (!f || (f.field.as !== 'people' && f.field.as !== 'words')) return []
    const { field } = f
    const values = field.as === 'people' && field.single ? [valueAt(raw, f.at)] : listAt(raw, f.at)
    return values.map(v => idAt(v, field.each)).filter(Boolean)
  }
  const serviceStatus = text('status')
  const status = ofOwn(meaning.statuses, serviceStatus)
  const start = when('start')
  const estimate = at('estimatedDuration')
  const amount =
    estimate?.field.as === 'minutes' ? Number(valueAt(raw, estimate.at) ?? NaN) * estimate.field.unit : NaN
  const described = text('description')
  const marked = fields.uid ? null : MARKER.exec(described)
  const id = textAt(raw, ctx.description.item.id)
  const task: Task = {
    kind: 'task',
    uid: text('uid') || decoded(marked?.[1]) || `${slug(ctx.description.name)}-${id}`,
    summary: text('summary'),
    description: marked ? described.slice(0, marked.index) : described,
    status: status ?? 'needs-action',
    serviceStatus,
    priority: ofOwn(meaning.priorities, text('priority')) ?? 0,
    start: start.when,
    due: when('due').when,
    estimatedDuration: Number.isFinite(amount) && amount > 0 ? amount : start.minutes,
    completed: isoAt(raw, fields.completed),
    categories: list('categories').map(c => ctx.words.get(c) ?? c),
    assignees: list('assignees'),
    parent: text('parent') || null,
    recurring: isThere(valueAt(raw, at('recurring')?.at ?? '/')),
    occurrence: text('occurrence') || null,
    url: null,
    created: isoAt(raw, fields.created),
    lastModified: isoAt(raw, fields.lastModified),
  }
  return { task, unknownStatus: status === undefined && serviceStatus !== '' ? serviceStatus : null }
}

export const slug = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]+/g, '-')

const numbered = (value: string, number: boolean): string | number => (number ? Number(value) : value)

function whenValues(
  when: When | null,
  field: Field,
  zone: string,
  minutes: number | null,
): [string, unknown][] {
  const own = (extra: string): string => extra
  const to = field.to ?? field.at
  const local = when && toMinute(inZone(when, zone, zone))
  const day = !local ? null : local.kind === 'date' ? local.date : local.local.slice(0, 10)
  const hour = !local || local.kind === 'date' ? null : local.local.slice(11, 16)
  switch (field.as) {
    case 'day-and-hour':
      return [
        [to, day],
        [own(field.hourAt), hour],
      ]
    case 'instant': {
      const ms = when ? epochOf(when, zone) : null
      const value =
        ms === null
          ? null
          : field.form === 'iso'
            ? new Date(ms).toISOString()
            : field.form === 'epoch-ms'
              ? ms
              : Math.floor(ms / 1000)
      return [[to, value]]
    }
    case 'moment': {
      if (!field.endAt) return [[to, day && hour ? `${day}T${hour}` : day]]
      // A span is written whole: the cell that holds it is cleared with its start.
      const cell = to.slice(0, to.lastIndexOf('/'))
      if (!day || !local) return [[cell, null]]
      const end = hour && minutes ? zonedAt(epochOf(local, zone) + minutes * MINUTE, zone) : null
      return [
        [to, hour ? `${day}T${hour}` : day],
        [field.endAt, end && end.kind !== 'date' ? end.local.slice(0, 16) : null],
      ]
    }
    default:
      return [[to, day]]
  }
}

/** The service's status to write: the one that is named, where it means what is to be said; else the table's. */
export function statusOf(patch: TaskPatch, meaning: Meaning): string | undefined {
  const { status, serviceStatus } = patch
  const known = serviceStatus === undefined ? undefined : ofOwn(meaning.statuses, serviceStatus)
  if (known !== undefined && (status === undefined || known === status)) return serviceStatus
  return status && statusToWrite(meaning, status)
}

/** What goes where inside {fields}, for the properties in `patch`. `item` is the task as it then is. */
export function writeFields(
  patch: TaskPatch,
  item: TaskPatch,
  ctx: FieldContext,
  uid: string | null,
): Record<string, unknown> {
  const { fields } = ctx.description
  const out: Record<string, unknown> = {}
  const put = (field: Field, pointer: string, value: unknown): void => {
    const at = pointerOf(pointer, field, ctx.meaning)
    if (at !== null) putAt(out, at, value)
  }
  for (const name of Object.keys(patch) as (keyof TaskPatch)[]) {
    // The service's own status is written where the status is.
    const named =
      name === 'serviceStatus' ? ('status' in patch ? null : 'status') : name === 'url' ? null : name
    const field = named === null ? undefined : fields[named]
    if (!field || field.to === null) continue
    const to = field.to ?? field.at
    switch (field.as) {
      case 'text': {
        let text = String(patch[name] ?? '')
        if (name === 'description' && !fields.uid && uid) text = `${text}\n\n${markerOf(uid)}`
        put(field, to, name === 'parent' && text === '' ? null : cut(text, field.maxLength))
        break
      }
      case 'minutes':
        put(field, to, patch.estimatedDuration ? unitsOf(patch.estimatedDuration, field) : null)
        break
      case 'status': {
        const id = statusOf(patch, ctx.meaning)
        if (id !== undefined)
          put(field, to, id === 'true' ? true : id === 'false' ? false : /^-?\d+$/.test(id) ? Number(id) : id)
        break
      }
      case 'priority': {
        const id = priorityToWrite(ctx.meaning, patch.priority ?? 0)
        if (id !== undefined) put(field, to, numbered(id, field.number))
        break
      }
      case 'people':
        put(
          field,
          to,
          field.single
            ? (patch.assignees?.[0] ?? null)
            : (patch.assignees ?? []).map(p => numbered(p, field.number)),
        )
        break
      case 'words': {
        const ids = new Map([...ctx.words].map(([id, word]) => [word, id]))
        put(
          field,
          to,
          (patch.categories ?? []).map(c => ids.get(c) ?? c),
        )
        break
      }
      case 'present':
        break
      default:
        for (const [pointer, value] of whenValues(
          (patch[name] ?? null) as When | null,
          field,
          ctx.zone,
          item.estimatedDuration ?? null,
        ))
          put(field, pointer, value)
    }
  }
  return out
}

/** What is begun counts, where only whole units are kept. */
const unitsOf = (minutes: number, { unit, whole }: { unit: number; whole: boolean }): number =>
  whole ? Math.ceil(minutes / unit) : Math.round((minutes / unit) * 100) / 100

const cut = (text: string, max: number | undefined): string =>
  max === undefined || text.length <= max ? text : Array.from(text).slice(0, max).join('')

/** Stands for the revision where a service has none. */
export const contentRevision = (raw: unknown): string =>
  createHash('sha256').update(JSON.stringify(raw)).digest('base64url').slice(0, 27)

/** A marker that somebody has edited is none. */
function decoded(marker: string | undefined): string {
  try {
    return marker ? decodeURIComponent(marker) : ''
  } catch {
    return ''
  }
}
