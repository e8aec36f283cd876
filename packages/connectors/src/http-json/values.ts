import { ofOwn, priorityToWrite, type TaskPatch } from '@loom/core'
import type { Field } from './description.ts'
import type { FieldContext } from './field-context.ts'
import { markerOf } from './marker.ts'
import { statusOf } from './service-status.ts'

/** The value to write for each form that is no moment. Undefined: the field is not written. */

const TRUTH = { true: true, false: false }

export type ValueForm = 'text' | 'minutes' | 'status' | 'priority' | 'people' | 'words' | 'present'

export type ValueWriter<K extends ValueForm> = (
  patch: TaskPatch,
  to: { name: keyof TaskPatch; field: Extract<Field, { as: K }>; ctx: FieldContext; uid: string | null },
) => unknown

export const VALUES: { [K in ValueForm]: ValueWriter<K> } = {
  text(patch, { name, field, ctx, uid }) {
    const text = String(patch[name] ?? '')
    if (name === 'parent' && text === '') return null
    const marked = name === 'description' && !ctx.description.fields.uid && uid
    return cut(marked ? `${text}\n\n${markerOf(uid)}` : text, field.maxLength)
  },
  minutes: ({ estimatedDuration }, { field }) =>
    estimatedDuration ? unitsOf(estimatedDuration, field) : null,
  status(patch, { ctx }) {
    const id = statusOf(patch, ctx.meaning)
    return id === undefined ? undefined : (ofOwn(TRUTH, id) ?? numbered(id, /^-?\d+$/.test(id)))
  },
  priority({ priority }, { field, ctx }) {
    const id = priorityToWrite(ctx.meaning, priority ?? 0)
    return id === undefined ? undefined : numbered(id, field.number)
  },
  people: ({ assignees = [] }, { field }) =>
    field.single ? (assignees[0] ?? null) : assignees.map(p => numbered(p, field.number)),
  words({ categories = [] }, { ctx }) {
    const ids = new Map([...ctx.words].map(([id, word]) => [word, id]))
    return categories.map(c => ids.get(c) ?? c)
  },
  present: () => undefined,
}

const numbered = (value: string, number: boolean): string | number => (number ? Number(value) : value)

/** Rounds up where the service keeps whole units only. */
const unitsOf = (minutes: number, { unit, whole }: { unit: number; whole: boolean }): number =>
  whole ? Math.ceil(minutes / unit) : Math.round((minutes / unit) * 100) / 100

const cut = (text: string, max: number | undefined): string =>
  max === undefined || text.length <= max ? text : Array.from(text).slice(0, max).join('')
