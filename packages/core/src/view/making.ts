import { z } from 'zod'
import { When } from '../time/when.ts'
import { EventKind } from '../items/own-layer.ts'
import { Said } from './edits/edit.ts'

/** A creation on the Cloth: an event, further time for a task, a batch, or a task. */

export const Repeats = z.object({
  every: z.enum(['daily', 'workdays', 'weekly', 'monthly', 'yearly']),
  interval: z.number().int().min(1).max(99),
  /** The last day, in the zone of what repeats; null for without end. */
  until: z.iso.date().nullable(),
})
export type Repeats = z.infer<typeof Repeats>

const Key = z.string().max(36)
const common = {
  /** The collection it goes to; null for our own layer, which no outside service sees. */
  into: Key.nullable(),
  said: Said.default({}),
}
const timed = {
  start: When,
  minutes: z.number().int().min(5).max(100_000),
  repeats: Repeats.nullable().default(null),
}

export const Making = z.discriminatedUnion('what', [
  z.object({
    what: z.literal('event'),
    title: z.string().trim().min(1).max(500),
    kind: EventKind.default('other'),
    /** Members of the team by their ids; others by their addresses. */
    guests: z
      .array(z.union([Key, z.email().max(254)]))
      .max(50)
      .default([]),
    ...timed,
    ...common,
  }),
  z.object({
    what: z.literal('block'),
    task: Key,
    /** Its own; that of the task when null. */
    title: z.string().trim().min(1).max(500).nullable().default(null),
    start: When,
    minutes: z.number().int().min(5).max(1440),
    ...common,
  }),
  z.object({
    what: z.literal('batch'),
    title: z.string().trim().min(1).max(500),
    tasks: z.array(Key).max(100),
    ...timed,
    ...common,
  }),
  z.object({
    what: z.literal('task'),
    title: z.string().trim().min(1).max(500),
    start: When.nullable(),
    estimate: z.number().int().min(5).max(100_000).nullable().default(null),
    week: z.iso.date().nullable().default(null),
    /** The member it is given to, where they have an account. */
    for: Key.nullable().default(null),
    ...common,
  }),
])
export type Making = z.infer<typeof Making>
