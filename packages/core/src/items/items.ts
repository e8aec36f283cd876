import { z } from 'zod'
import { When } from '../time/when.ts'

/** The canonical task and event, with the names of RFC 5545 (VTODO, VEVENT) and RFC 7986. */
export const TaskStatus = z.enum(['needs-action', 'in-process', 'completed', 'cancelled'])
export type TaskStatus = z.infer<typeof TaskStatus>

/**
 * The bounds of a stored item: as much as people write by hand, and no more than the database columns hold.
 * Everything from outside is checked by this before it is stored.
 */
const Uid = z.string().min(1).max(500)
const Title = z.string().max(10_000)
const Notes = z.string().max(500_000)
const Word = z.string().max(500)
const Words = z.array(Word).max(1_000)
const Link = z.string().max(10_000)
/** Of an instant, ISO 8601. */
const Instant = z.string().max(40)
/** A hundred years. */
const MOST_MINUTES = 52_600_000
/** Ten years. */
const MOST_ESTIMATE = 5_260_000

/** It begins only so many minutes after another has ended (RFC 9253 §5: FINISHTOSTART, GAP). */
export const WaitsFor = z.object({ uid: Uid, gap: z.number().int().min(0).max(MOST_ESTIMATE) })
export type WaitsFor = z.infer<typeof WaitsFor>

export const Task = z.object({
  kind: z.literal('task'),
  uid: Uid,
  summary: Title,
  description: Notes,
  status: TaskStatus,
  /** The service's own word for the status. */
  serviceStatus: Word,
  /** RFC 5545 §3.8.1.9: 1 highest, 9 lowest, 0 none. */
  priority: z.number().int().min(0).max(9),
  /** The planned time. */
  start: When.nullable(),
  /** The deadline. */
  due: When.nullable(),
  /** Minutes. */
  estimatedDuration: z.number().min(0).max(MOST_ESTIMATE).nullable(),
  completed: Instant.nullable(),
  categories: Words,
  /** As the service tells them apart: account numbers, logins, mail addresses. */
  assignees: Words,
  /** The uid or the service's id of the task that this one is a part of. */
  parent: Word.nullable(),
  /** Other tasks, wherever they are kept, of which all come first; absent where there are none. */
  waitsFor: z.array(WaitsFor).max(100).optional(),
  /** Where it can be done; absent where that is all the same. */
  location: Title.optional(),
  /** Its service moves it on or repeats it. */
  recurring: z.boolean(),
  /**
   * The current round of a repeating task, in its service's own words; null if the service does not tell. Moving
   * the date by hand keeps the round. Completing the round changes it.
   */
  occurrence: Word.nullable().default(null),
  url: Link.nullable(),
  created: Instant.nullable(),
  lastModified: Instant.nullable(),
})
export type Task = z.infer<typeof Task>

/** Anchor and duration belong together: they are changed and merged as one field. */
export const Span = z.object({
  anchor: When,
  /** Minutes; whole days for a date. Exact time, not wall-clock time, for a zoned anchor. */
  minutes: z.number().min(0).max(MOST_MINUTES),
})
export type Span = z.infer<typeof Span>

export const Transparency = z.enum(['opaque', 'transparent'])
export type Transparency = z.infer<typeof Transparency>

/** What a guest has answered, as far as their calendar said so (RFC 5545 §3.2.12). */
export const GuestAnswer = z.enum(['accepted', 'declined', 'tentative', 'none'])
export type GuestAnswer = z.infer<typeof GuestAnswer>

/** So many guests of an event are known one by one. */
export const MOST_KNOWN_GUESTS = 200
const Address = z.string().max(320)
/** One guest's answer, by mail address in small letters. */
export const Answered = z.object({ email: Address, answer: GuestAnswer })
/** Who invites (null where nobody is named) and who is invited, by mail address in small letters. */
export const Invitees = z.object({
  by: Address.nullable(),
  guests: z.array(Answered).max(MOST_KNOWN_GUESTS),
})
export type Invitees = z.infer<typeof Invitees>

export const Event = z.object({
  kind: z.literal('event'),
  uid: Uid,
  summary: Title,
  description: Notes,
  location: Title,
  status: z.enum(['tentative', 'confirmed', 'cancelled']),
  transparency: Transparency,
  class: z.enum(['public', 'private', 'confidential']),
  time: Span,
  /** RFC 5545 §3.8.1.9: 1 highest, 9 lowest, 0 none. */
  priority: z.number().int().min(0).max(9).default(0),
  categories: Words,
  /** People other than the calendar's owner. */
  attendees: z.number().int(),
  /** Absent where nobody is invited. */
  invited: Invitees.optional(),
  recurring: z.boolean(),
  url: Link.nullable(),
  created: Instant.nullable(),
  lastModified: Instant.nullable(),
})
export type Event = z.infer<typeof Event>

export const Item = z.discriminatedUnion('kind', [Task, Event])
export type Item = z.infer<typeof Item>

/** What a write may change. A field that is absent is left as it is; `null` clears it. */
export const TaskPatch = Task.pick({
  summary: true,
  description: true,
  status: true,
  serviceStatus: true,
  start: true,
  due: true,
  estimatedDuration: true,
  priority: true,
  categories: true,
  assignees: true,
  parent: true,
  waitsFor: true,
  location: true,
  url: true,
}).partial()
export type TaskPatch = z.infer<typeof TaskPatch>
const EventFields = Event.pick({
  summary: true,
  description: true,
  transparency: true,
  time: true,
  location: true,
  class: true,
  priority: true,
  categories: true,
  url: true,
})
  .partial()
  // `status` is a task's in a patch, which may be for either.
  .extend({ eventStatus: Event.shape.status.optional() })

/** An override of one date of a series. */
export type OccurrenceChange = z.infer<typeof EventFields>

/** A change of a series; `id` names one of its dates as RECURRENCE-ID does (RFC 5545 §3.8.4.4). */
export const SeriesPatch = z.discriminatedUnion('do', [
  z.object({ do: z.literal('change'), id: z.string(), change: EventFields }),
  z.object({ do: z.literal('drop'), id: z.string() }),
  /** A date that was left out takes place again, as the series has it. */
  z.object({ do: z.literal('keep'), id: z.string() }),
  /** The series ends before this date. */
  z.object({ do: z.literal('end-before'), id: z.string() }),
  /** All dates move as this one does. */
  z.object({ do: z.literal('shift'), id: z.string(), time: Span }),
  /** The series reads again as it did. */
  z.object({ do: z.literal('back'), text: z.string().max(200_000) }),
])
export type SeriesPatch = z.infer<typeof SeriesPatch>

/** Characters of a guest's name. */
export const MOST_NAME = 200
/** Somebody who is invited; without a name, where only the address is known. */
export const Guest = z.object({ name: z.string().trim().max(MOST_NAME), email: z.email().max(254) })
export type Guest = z.infer<typeof Guest>

/** Who is invited besides, and who no longer. `organizer`: who invites, where nobody did so far. */
export const GuestsChange = z.object({
  add: z.array(Guest).max(50),
  drop: z.array(Guest).max(50),
  organizer: Guest.optional(),
  /** What those who are invited have answered. */
  answers: z.array(Answered).max(MOST_KNOWN_GUESTS).optional(),
})
export type GuestsChange = z.infer<typeof GuestsChange>

export const EventPatch = EventFields.extend({
  series: SeriesPatch.optional(),
  guests: GuestsChange.optional(),
})
export type EventPatch = z.infer<typeof EventPatch>

export type ItemPatch = TaskPatch & EventPatch

function withInvited(
  { attendees, invited }: Event,
  { add, drop, organizer, answers = [] }: GuestsChange,
): Pick<Event, 'attendees' | 'invited'> {
  const emailOf = ({ email }: Guest): string => email.toLowerCase()
  const gone = new Set(drop.map(emailOf))
  const answered = new Map(answers.map(a => [a.email, a.answer]))
  const kept = (invited?.guests ?? [])
    .filter(g => !gone.has(g.email))
    .map(g => ({ ...g, answer: answered.get(g.email) ?? g.answer }))
  const fresh = add.map(g => ({ email: emailOf(g), answer: 'none' as const }))
  return {
    attendees: Math.max(0, attendees + add.length - drop.length),
    invited: {
      by: invited?.by ?? (organizer ? emailOf(organizer) : null),
      guests: [...kept, ...fresh].slice(0, MOST_KNOWN_GUESTS),
    },
  }
}

/** The item as it would read with `patch` applied. */
export function withPatch<I extends Item>(item: I, patch: ItemPatch): I {
  const { eventStatus, series: _, guests, ...rest } = patch
  return {
    ...item,
    ...rest,
    ...(item.kind === 'event' && {
      ...(eventStatus && { status: eventStatus }),
      ...(guests && withInvited(item, guests)),
    }),
  }
}

/** What an item says now of the properties that a patch names. */
export function asInPatch(item: Item, patch: ItemPatch): ItemPatch {
  // Nothing to wait for, and no place, is as good as none.
  const waitsFor = item.kind === 'task' ? (item.waitsFor ?? []) : undefined
  const now = {
    ...item,
    eventStatus: item.status,
    waitsFor,
    location: item.location ?? '',
  } as unknown as Record<string, unknown>
  return Object.fromEntries(Object.keys(patch).map(k => [k, now[k]]))
}

export function newTask(uid: string, patch: TaskPatch): Task {
  return {
    kind: 'task',
    uid,
    summary: '',
    description: '',
    status: 'needs-action',
    serviceStatus: '',
    priority: 0,
    start: null,
    due: null,
    estimatedDuration: null,
    completed: null,
    categories: [],
    assignees: [],
    parent: null,
    recurring: false,
    occurrence: null,
    url: null,
    created: null,
    lastModified: null,
    ...patch,
  }
}

export function newEvent(uid: string, time: Span, patch: EventPatch = {}): Event {
  return {
    kind: 'event',
    uid,
    summary: '',
    description: '',
    location: '',
    status: 'confirmed',
    transparency: 'opaque',
    class: 'public',
    time,
    priority: 0,
    categories: [],
    attendees: 0,
    recurring: false,
    url: null,
    created: null,
    lastModified: null,
    ...patch,
  }
}
