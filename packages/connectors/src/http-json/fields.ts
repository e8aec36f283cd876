import { createHash } from 'node:crypto'
import { ofOwn, type Task, type TaskPatch } from '@loom/core'
import type { Field, FieldName } from './description.ts'
import { type FieldContext, pointerOf } from './field-context.ts'
import { withoutMarker } from './marker.ts'
import { isoAt, momentCodecOf, type Put } from './moments.ts'
import { listAt, putAt, textAt, valueAt } from './pointer.ts'
import { VALUES, type ValueForm, type ValueWriter } from './values.ts'

/** Between an item as the service tells it and the canonical task, by the description's fields. */

const idAt = (value: unknown, each: string): string => {
  const id = each === '' ? value : valueAt(value, each)
  return typeof id === 'string' || typeof id === 'number' ? String(id) : ''
}

/** Whether a value says anything: a rule, a word, a list with something in it. */
const isThere = (value: unknown): boolean =>
  Array.isArray(value) ? value.length > 0 : ![undefined, null, false, '', 0].includes(value as never)

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
  const moment = (name: 'start' | 'due') => {
    const f = at(name)
    const codec = f && momentCodecOf(f.field)
    return codec ? codec.read(raw, f.at, f.field as never, ctx) : { when: null, minutes: null }
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
  const start = moment('start')
  const estimate = at('estimatedDuration')
  const amount =
    estimate?.field.as === 'minutes' ? Number(valueAt(raw, estimate.at) ?? NaN) * estimate.field.unit : NaN
  const described = text('description')
  const { notes, uid } = fields.uid ? { notes: described, uid: text('uid') } : withoutMarker(described)
  const id = textAt(raw, ctx.description.item.id)
  const task: Task = {
    kind: 'task',
    uid: uid || `${slug(ctx.description.name)}-${id}`,
    summary: text('summary'),
    description: notes,
    status: status ?? 'needs-action',
    serviceStatus,
    priority: ofOwn(meaning.priorities, text('priority')) ?? 0,
    start: start.when,
    due: moment('due').when,
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

/** The field that a property is written to; none if the service has no such field or it is read-only. */
function fieldOf(name: keyof TaskPatch, patch: TaskPatch, { description }: FieldContext): Field | undefined {
  // The service's own status is written where the status is.
  if (
    name === 'url' ||
    name === 'waitsFor' ||
    name === 'location' ||
    (name === 'serviceStatus' && 'status' in patch)
  )
    return undefined
  const field = description.fields[name === 'serviceStatus' ? 'status' : name]
  return field?.to === null ? undefined : field
}

/**
 * Which value goes where inside {fields}, for the properties in `patch`. `item` is the task after the write; `was`
 * is the task as the service has it, where that is needed; `uid` is our reference, where it is written with the
 * notes.
 */
export function writeFields(
  patch: TaskPatch,
  item: TaskPatch,
  ctx: FieldContext,
  { uid = null, was = null }: { uid?: string | null; was?: unknown } = {},
): Record<string, unknown> {
  const out: Record<string, unknown> = {}
  for (const name of Object.keys(patch) as (keyof TaskPatch)[]) {
    const field = fieldOf(name, patch, ctx)
    if (!field) continue
    for (const [pointer, value] of valuesOf(name, field, { patch, item, ctx, uid, was })) {
      const at = pointerOf(pointer, field, ctx.meaning)
      if (at !== null) putAt(out, at, value)
    }
  }
  return out
}

interface Write {
  patch: TaskPatch
  item: TaskPatch
  ctx: FieldContext
  uid: string | null
  was: unknown
}

function valuesOf(name: keyof TaskPatch, field: Field, { patch, item, ctx, uid, was }: Write): Put[] {
  const to = field.to ?? field.at
  const codec = momentCodecOf(field)
  if (codec) {
    const when = name === 'start' || name === 'due' ? (patch[name] ?? null) : null
    return codec.write({ when, minutes: item.estimatedDuration ?? null }, to, field as never, ctx, was)
  }
  const write = VALUES[field.as as ValueForm] as ValueWriter<ValueForm>
  const value = write(patch, { name, field: field as never, ctx, uid })
  return value === undefined ? [] : [[to, value]]
}

/** Stands for the revision where a service has none. */
export const contentRevision = (raw: unknown): string =>
  createHash('sha256').update(JSON.stringify(raw)).digest('base64url').slice(0, 27)
