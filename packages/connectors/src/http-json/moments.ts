import {
  addDays,
  dayOf,
  daysBetween,
  epochOf,
  inZone,
  MINUTE,
  NotUnderstood,
  toMinute,
  type When,
  zonedAt,
} from '@loom/core'
import type { Field } from './description.ts'
import { type FieldContext, pointerOf } from './field-context.ts'
import { textAt, valueAt } from './pointer.ts'

/** Days, hours and instants as services write them, each form in both directions. */

/** The service's form of something we cannot take; the reason is a sentence. */
export class OddValue extends NotUnderstood {}

export type Put = [pointer: string, value: unknown]

/** `minutes` is the length of a span, where the form has one. */
export interface Moment {
  when: When | null
  minutes: number | null
}

type MomentForm = 'day' | 'day-and-hour' | 'instant' | 'moment'
type Of<K extends Field['as']> = Extract<Field, { as: K }>

interface MomentCodec<K extends MomentForm> {
  /** Throws OddValue. */
  read(raw: unknown, at: string, field: Of<K>, ctx: FieldContext): Moment
  /** `was`: the item as it stands at the service; null for a new one. */
  write(moment: Moment, to: string, field: Of<K>, ctx: FieldContext, was: unknown): Put[]
}

const DAY = /^\d{4}-\d\d-\d\d$/
const MOMENT = /^(\d{4}-\d\d-\d\d)(?:T(\d\d:\d\d)(?::\d\d)?)?$/
const NEVER: Moment = { when: null, minutes: null }

const isDay = (text: string): boolean => DAY.test(text) && !Number.isNaN(Date.parse(text))

function parsedMoment(text: string, zone: string): When {
  const m = MOMENT.exec(text)
  if (!m?.[1] || !isDay(m[1])) throw new OddValue(`“${text}” is not a date.`)
  return m[2] ? { kind: 'zoned', local: `${m[1]}T${m[2]}:00`, zone } : { kind: 'date', date: m[1] }
}

/** Day and hour in the account's zone; no hour where only a day is meant. */
function localParts(when: When | null, zone: string): { day: string | null; hour: string | null } {
  if (!when) return { day: null, hour: null }
  const local = toMinute(inZone(when, zone, zone))
  return local.kind === 'date'
    ? { day: local.date, hour: null }
    : { day: local.local.slice(0, 10), hour: local.local.slice(11, 16) }
}

type InstantForm = Of<'instant'>['form']

/** Epoch ms; null where nothing stands. */
function parsedInstant(value: unknown, form: InstantForm): number | null {
  if (value === null || value === undefined || value === '') return null
  const ms = form === 'iso' ? Date.parse(String(value)) : Number(value) * (form === 'epoch-ms' ? 1 : 1000)
  if (!Number.isFinite(ms) || Math.abs(ms) > 8e15) throw new OddValue(`“${String(value)}” is not a time.`)
  return ms
}

const writtenInstant: Record<InstantForm, (ms: number) => string | number> = {
  iso: ms => new Date(ms).toISOString(),
  'epoch-ms': ms => ms,
  'epoch-seconds': ms => Math.floor(ms / 1000),
}

/** When something happened, ISO 8601 in UTC. */
export function isoAt(raw: unknown, field: Field | undefined): string | null {
  if (!field) return null
  const ms = parsedInstant(valueAt(raw, field.at), field.as === 'instant' ? field.form : 'iso')
  return ms === null ? null : new Date(ms).toISOString()
}

/** Minutes of a span; null where its end is missing, of another kind, or not after its start. */
function lengthOf(from: When, end: string, zone: string): number | null {
  const until = end ? parsedMoment(end, zone) : null
  if (!until || until.kind !== from.kind || from.kind === 'date') return null
  const minutes = (epochOf(until, zone) - epochOf(from, zone)) / MINUTE
  return minutes > 0 ? minutes : null
}

/** How long a span is at its service: in minutes where it has hours, and over how many midnights it goes. */
function spanIn(
  raw: unknown,
  field: Of<'moment'>,
  ctx: FieldContext,
): { minutes: number | null; days: number } | null {
  const [startAt, endAt] = [field.at, field.endAt].map(at =>
    at === undefined ? null : pointerOf(at, field, ctx.meaning),
  )
  if (!startAt || !endAt) return null
  const [from, to] = [textAt(raw, startAt), textAt(raw, endAt)]
  if (!from || !to) return null
  const [start, end] = [parsedMoment(from, ctx.zone), parsedMoment(to, ctx.zone)]
  const days = daysBetween(dayOf(start, ctx.zone), dayOf(end, ctx.zone))
  return { minutes: lengthOf(start, to, ctx.zone), days: Math.max(0, days) }
}

const MOMENTS: { [K in MomentForm]: MomentCodec<K> } = {
  day: {
    read(raw, at, _field, { zone }) {
      const text = textAt(raw, at)
      return text ? { when: parsedMoment(text, zone), minutes: null } : NEVER
    },
    write: ({ when }, to, _field, { zone }) => [[to, localParts(when, zone).day]],
  },
  'day-and-hour': {
    read(raw, at, field, { zone }) {
      const [day, hour] = [textAt(raw, at), textAt(raw, field.hourAt)]
      return day ? { when: parsedMoment(hour ? `${day}T${hour}` : day, zone), minutes: null } : NEVER
    },
    write({ when }, to, field, { zone }) {
      const { day, hour } = localParts(when, zone)
      return [
        [to, day],
        [field.hourAt, hour],
      ]
    },
  },
  instant: {
    read(raw, at, field, { zone }) {
      const ms = parsedInstant(valueAt(raw, at), field.form)
      return ms === null ? NEVER : { when: zonedAt(ms, zone), minutes: null }
    },
    write: ({ when }, to, field, { zone }) => [
      [to, when ? writtenInstant[field.form](epochOf(when, zone)) : null],
    ],
  },
  moment: {
    read(raw, at, field, { zone, meaning }) {
      const text = textAt(raw, at)
      if (!text) return NEVER
      const when = parsedMoment(text, zone)
      const endAt = field.endAt ? pointerOf(field.endAt, field, meaning) : null
      return { when, minutes: endAt === null ? null : lengthOf(when, textAt(raw, endAt), zone) }
    },
    write({ when, minutes }, to, field, ctx, was) {
      const { zone } = ctx
      const { day, hour } = localParts(when, zone)
      const text = hour ? `${day}T${hour}` : day
      if (!field.endAt) return [[to, text]]
      // A span is written whole: the cell that holds it is cleared with its start.
      if (!when) return [[to.slice(0, to.lastIndexOf('/')), null]]
      const span = was === null ? null : spanIn(was, field, ctx)
      const length = minutes ?? span?.minutes ?? null
      if (hour && length) {
        const end = zonedAt(epochOf(when, zone) + length * MINUTE, zone)
        return [
          [to, text],
          [field.endAt, end.kind === 'date' ? null : end.local.slice(0, 16)],
        ]
      }
      // A span of several days keeps as many of them.
      const end = day && span && span.days > 0 ? addDays(day, span.days) : null
      return [
        [to, text],
        [field.endAt, end],
      ]
    },
  },
}

/** Null for a field that tells no moment. */
export const momentCodecOf = (field: Field): MomentCodec<MomentForm> | null =>
  Object.hasOwn(MOMENTS, field.as) ? (MOMENTS[field.as as MomentForm] as MomentCodec<MomentForm>) : null
