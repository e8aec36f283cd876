import { z } from 'zod'
import { Answered, Guest, TaskStatus, Transparency } from '../../items/items.ts'
import { EventKind } from '../../items/own-layer.ts'
import { onDate, When } from '../../time/when.ts'

/** What a person can do to an item. */

const Minutes = z.number().int().min(5).max(1440)

const Categories = z.array(z.string().trim().min(1).max(200)).max(50)

/** What the drawer lets a person say of an item, in the item's own fields. */
export const Said = z
  .object({
    summary: z.string().trim().min(1).max(500),
    description: z.string().max(100_000),
    location: z.string().max(1000),
    url: z
      .url({ protocol: /^https?$/ })
      .max(2000)
      .nullable(),
    categories: Categories,
    priority: z.number().int().min(0).max(9),
    due: When.nullable(),
    status: TaskStatus,
    transparency: Transparency,
    class: z.enum(['public', 'private', 'confidential']),
    assignees: z.array(z.string().min(1).max(255)).max(50),
  })
  .partial()
export type Said = z.infer<typeof Said>

/** What a person can do to an item on the Cloth; and, returned as `inverse`, what takes it back. */
export const Edit = z.discriminatedUnion('do', [
  z.object({ do: z.literal('place'), start: When, minutes: Minutes.optional() }),
  z.object({ do: z.literal('lengthen'), minutes: Minutes }),
  /** No day and no hour any more. */
  z.object({ do: z.literal('unplace') }),
  /** Meant for the week that begins on this Monday; no day chosen. */
  z.object({ do: z.literal('any-day'), week: z.iso.date() }),
  /** Out of sight until a day; '' without a date; null brings it back. */
  z.object({ do: z.literal('put-by'), until: z.union([z.iso.date(), z.literal('')]).nullable() }),
  z.object({ do: z.literal('leave-out'), out: z.boolean() }),
  z.object({ do: z.literal('complete') }),
  z.object({ do: z.literal('reopen') }),
  z.object({ do: z.literal('cancel') }),
  z.object({ do: z.literal('rename'), title: z.string().trim().min(1).max(500) }),
  z.object({ do: z.literal('estimate'), minutes: z.number().int().min(5).max(100_000).nullable() }),
  z.object({ do: z.literal('say'), said: Said }),
  /** To a member of the team, by their account at the item's service; null for nobody. */
  z.object({ do: z.literal('give'), to: z.string().max(36).nullable() }),
  /** Who is invited besides, and who no longer. */
  z.object({
    do: z.literal('invite'),
    add: z.array(Guest).max(50),
    drop: z.array(Guest).max(50),
    /** Whoever invites, where nobody did so far; said by the server. */
    organizer: Guest.optional(),
  }),
  /** What guests have answered: by mail, or as somebody heard it. */
  z.object({ do: z.literal('note-answers'), answers: z.array(Answered).min(1).max(200) }),
  /** The time of a block has been worked, or has not after all. Its task stays as it is. */
  z.object({ do: z.literal('spend'), spent: z.boolean() }),
  /** Null and `categories`, as they were, where a mark is taken back: the calendar says again what it said. */
  z.object({ do: z.literal('fix'), movable: z.boolean().nullable(), categories: Categories.optional() }),
  z.object({ do: z.literal('kind'), kind: EventKind.nullable(), categories: Categories.optional() }),
  /** Others see only that the time is taken, or again what its list shows. */
  z.object({ do: z.literal('keep-private'), private: z.boolean() }),
  z.object({ do: z.literal('delete') }),
  /** Undoes a deletion. */
  z.object({ do: z.literal('restore') }),
  /** A series reads again as it did; what went on as a series of its own is removed. */
  z.object({
    do: z.literal('series-back'),
    text: z.string().max(200_000),
    drop: z.string().max(500).nullable(),
  }),
])
export type Edit = z.infer<typeof Edit>

/** A day without an hour, as an edit. */
export const placeOnDay = (date: string): Edit => ({ do: 'place', start: onDate(date) })
