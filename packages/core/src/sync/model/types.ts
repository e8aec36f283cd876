import { z } from 'zod'
import type { Event, EventPatch, Item, ItemPatch, Task, TaskPatch } from '../../items/items.ts'
import type { When } from '../../time/when.ts'
import type { Field, RuleSettings } from './settings.ts'

/** A rule pairs side `a` with side `b`; each is one or more task lists, or one or more calendars. */
export type Side = 'a' | 'b'
export const SIDES = ['a', 'b'] as const
export const otherSide = (side: Side): Side => (side === 'a' ? 'b' : 'a')

/** Values are kept as JSON, each in its own side's terms. */
export type FieldValue = unknown
export interface BothSides {
  a: FieldValue
  b: FieldValue
}
/** For each field, the values the two sides had when they last agreed. */
export type Base = Partial<Record<Field | 'subtasks', BothSides>>

/** When a change came about, in epoch ms: after `without`, at the latest at `with`. */
export interface SeenSpan {
  without: number
  with: number
  /** Nobody said it then: the service went back to an earlier version of the item. */
  restored?: true
}

/**
 * When the present value of a property was set. If several fields are read from one property, also its earlier
 * values, newest first: a change of the property may leave a field as it was, and such a field was not edited.
 */
export interface Seen extends SeenSpan {
  before?: (SeenSpan & { value: unknown })[]
}

/** What we last saw of one remote item. It never holds a value we only hope for. */
export interface Mirror<I extends Item = Item> {
  id: string
  collectionId: string
  remoteId: string
  revision: string
  item: I
  /**
   * `missing`: it cannot be understood at present. `outside`: it is there, but no longer among what is to come in.
   * `arriving`: it is new here, and may be one that we know, moved. None of these is planned with.
   */
  presence: 'present' | 'missing' | 'outside' | 'arriving' | 'gone'
  /** For each canonical property, when its present value came about. */
  seen: Record<string, Seen>
  firstSeenAt: number
  /**
   * Epoch ms of the reading in which it first appeared in its collection. 0: it was there at the collection's
   * baseline, or was an invitation when first seen. Such an item is new to no rule.
   */
  arrivedAt: number
}

export const ReleaseReason = z.enum([
  'no-time',
  /** The item on that side was deleted. `event-deleted` and `task-deleted` are of earlier versions. */
  'a-deleted',
  'b-deleted',
  'event-deleted',
  'task-deleted',
  'both-deleted',
  /** It left the filter. */
  'left',
  /** Its event was removed when the task was completed; reopening brings it back. */
  'completed',
  /** Somebody took back what the rule had made. */
  'undone',
  /** Somebody said that the two are not the same work: they are tied again by hand alone. */
  'by-hand',
  'block-removed',
  'promoted',
  /** The service would not take the counterpart. */
  'refused',
  /** The item deleted on that side is created again there: its counterpart is planned like any untied item. */
  'a-again',
  'b-again',
  /** A round of a repeating task is done; the next has a tie of its own. */
  'advanced',
])
export type ReleaseReason = z.infer<typeof ReleaseReason>

/**
 * What one of the two writes of a decision still owes, while the other is confirmed. `other`: a value of the other side;
 * `own`: what belongs to the side's own edit, such as showing a marked event free; `join`: a value that neither side had.
 */
export type Owed =
  | {
      to: Side
      as: 'other'
      /** What is owed. */
      value: FieldValue
      /** What our write to the side of the edit left there. */
      own: FieldValue
    }
  | { to: Side; as: 'own'; /** The base of that side before its edit. */ base: FieldValue }
  | { to: Side; as: 'join' }

/** What a pair ended for: an item was deleted, and this followed. For when that item returns. */
export interface RememberedDeletion {
  side: Side
  /** Epoch ms. */
  at: number
  /** What its service said of when it had last been changed. */
  modified: string | null
  /** What was written on the other side, and what stood there before; absent where nothing was. */
  effect?: { change: FieldChange; patch: ItemPatch; before: ItemPatch }
  /** Its counterpart was deleted for it: the uid that it had. */
  removed?: string
  /** The date of its counterpart then, which need not be the one that they agreed on. */
  when?: DatedBy
}
/** What an item is dated by: a task by the date that its rule goes by, an event by its time. */
export type DatedBy = When | Event['time'] | null

/** What a tie remembers beside its base. */
export interface TieMemory {
  /** The event that a completed task had: its uid and its time, for when the task is reopened. */
  event?: { uid: string; time: FieldValue }
  /** The side that an event and its counterpart come from. */
  origin?: Side
  /** The side whose event is private: the other is told when it is, and no more. */
  veil?: Side
  /** Fields that were put back by hand: left alone while both sides stay like this. */
  apart?: Partial<Record<Field, BothSides>>
  owed?: Partial<Record<Field, Owed>>
  /** Of a pair that was taken up again: until what followed from the deletion is put back. */
  deletion?: RememberedDeletion
  /** A block whose title is its own. */
  ownTitle?: boolean
  /** Uid of a counterpart that was given up, though it may have been made. */
  sought?: string
  /** The order of a task in its batch. */
  place?: number
  /** The round of a repeating task that this tie is for; of a batch that repeats, the date that the task is in. */
  occurrence?: string
}

/** The record that item a and item b are the same work. */
export interface Tie {
  id: string
  /** `batch`: side b is a block that several tasks share. */
  role: 'mirror' | 'block' | 'batch'
  /** Mirror ids; null while the counterpart is being made. */
  a: string | null
  b: string | null
  base: Base
  memory: TieMemory
  released: ReleaseReason | null
}

/** How a side's items are told apart by everybody who connects the same service. */
export interface Identity {
  /** The address of the service, or what stands for it. */
  service: string
  /** What of an item is the same for everybody. A uid is so only within its list: copies in two lists share it. */
  by: 'uid' | 'remoteId'
  /** The side's collections by our ids, as everybody calls them. */
  lists: Readonly<Record<string, string>>
}

/** What the lenses must know of a side's service. */
export interface SideTerms {
  identity: Identity
  /** The zone in which the service tells its hours; null when each time names its own. */
  zone: string | null
  summaryMaxLength: number | null
  precision: 'day' | 'minute' | 'second'
  /** Of deadlines. */
  duePrecision: 'day' | 'minute' | 'second'
  canHold: Record<'start' | 'due' | 'estimate' | 'notes' | 'priority' | 'location', boolean>
  writable: boolean
  /** Who is signed in there, by the service's own id. */
  me: string | null
  /** The service's id of a person → the member of the team. */
  people: Readonly<Record<string, string>>
}

export const plainTerms: SideTerms = {
  identity: { service: '', by: 'uid', lists: {} },
  zone: null,
  summaryMaxLength: null,
  precision: 'second',
  duePrecision: 'second',
  canHold: { start: true, due: true, estimate: true, notes: true, priority: true, location: true },
  writable: true,
  me: null,
  people: {},
}

export interface Rule {
  id: string
  kinds: Record<Side, Item['kind']>
  /** The collection that new items go to. */
  home: Record<Side, string>
  /** Every collection whose items take part, `home` among them. */
  collections: Record<Side, readonly string[]>
  settings: RuleSettings
  terms: Record<Side, SideTerms>
  /** For dates and floating times. */
  zone: string
  /** The rule as it is for pairs whose event on this side is private. */
  veil?: Side
  /** Epoch ms: what arrived before is new to it on no side. Null while the rule is only previewed. */
  newSince: number | null
}

export interface FieldChange {
  field: Field | 'subtasks'
  before: FieldValue
  after: FieldValue
  /** Of a decision that writes to both sides: what this side's write is. */
  as?: Owed['as']
  /** Of a side's own: what the other side is to say. */
  owes?: FieldValue
}

interface WriteBase {
  tieId: string
  side: Side
  fields: FieldChange[]
  /** Becomes base, with the written side's value as the service returned it. */
  expect: Base
  /** Remembered by the tie once this is confirmed; null where it is forgotten. */
  remember?: { event?: TieMemory['event'] | null; deletion?: RememberedDeletion | null }
  /** The tie ends when this write is confirmed. */
  release: ReleaseReason | null
}

/** One write decided on. `revision` is the precondition. */
export type PlannedWrite =
  | (WriteBase & { op: 'create'; collectionId: string; item: Task | Event })
  | (WriteBase & {
      op: 'patch'
      mirrorId: string
      revision: string
      patch: TaskPatch & EventPatch
      /** The round that is completed: sent again only while a fresh reading shows that it is still that one. */
      occurrence?: string
    })
  | (WriteBase & { op: 'delete'; mirrorId: string; revision: string })

/** A value that lost against another; it stays readable in the journal. */
export interface Overridden {
  field: Field
  side: Side
  value: FieldValue
  /** `fallback`: the two edits could not be told apart in time. `one-way`: the field goes the other way only. */
  because: 'newer' | 'fallback' | 'first-winner' | 'one-way' | 'rule-says' | 'answered' | 'restored'
}

/** A field that waits for a person. */
export interface Held {
  field: Field
  reason: string
  /** Both sides as they stand, for the queue; absent where there is nothing to choose. */
  conflict?: { base: BothSides | null; a: FieldValue; b: FieldValue; seen: Record<Side, SeenSpan> }
}

/** What a person answered to a conflict; it holds only as long as both sides still say what they said then. */
export interface Answer extends BothSides {
  take: Side | { value: FieldValue }
}

export const DECISION_REASONS = [
  'task-has-hour',
  'task-has-day',
  'task-has-deadline',
  'new-event',
  'new-item',
  'task-edited',
  'event-edited',
  'a-edited',
  'b-edited',
  'both-edited',
  'rule-edited',
  'one-way',
  'restored',
  'matched',
  'adopted',
  'made-after-all',
  'made-elsewhere',
  'paired',
  'resumed',
  'event-deleted',
  'task-deleted',
  'a-deleted',
  'b-deleted',
  'edit-beats-deletion',
  'made-again',
  'reopened',
  'completed',
  'left-filter',
  'block',
  'promoted',
  'no-hour',
  'no-date',
  'outside',
  'series',
  'advanced',
  'would-not-fit',
  'agreed',
  'held',
  'diverged',
] as const
export type DecisionReason = (typeof DECISION_REASONS)[number]

/** The plan for one pair or one untied item. The preview shows it, the pass records it. */
export interface Decision {
  effect: 'make' | 'change' | 'remove' | 'match' | 'release' | 'none'
  /** Where; null when nothing is written. */
  on: Side | null
  reason: DecisionReason
  /** For people. */
  title: string
  /** It makes a counterpart for something that has just arrived: when it did, epoch ms. */
  arrived?: number
  a: string | null
  b: string | null
  /** The tie as it is to stand before any write; null when there is none. */
  tie: Tie | null
  /** What the two agreed on is not told anew: it is in the words of the rule as that was then. */
  asBefore?: true
  writes: PlannedWrite[]
  overridden: Overridden[]
  /** Why a field waits for a person. */
  held: Held[]
}
