import { z } from 'zod'
import type { Event, EventPatch, Item, Task, TaskPatch } from '../items/items.ts'

/** A rule pairs side `a`, a task list, with side `b`, a calendar. */
export type Side = 'a' | 'b'
export const otherSide = (side: Side): Side => (side === 'a' ? 'b' : 'a')

export const FIELDS = ['title', 'time', 'completion', 'notes'] as const
export type Field = (typeof FIELDS)[number]

/** Raw values are kept as JSON, each in its own side's terms. */
export type Raw = unknown
/** For each field, the values the two sides had when they last agreed. */
export type Base = Partial<Record<Field, { a: Raw; b: Raw }>>

/** When a change came about, in epoch ms: after `without`, at the latest at `with`. */
export interface SeenSpan {
  without: number
  with: number
}

/** What we last saw of one remote item. It never holds a value we only hope for. */
export interface Mirror<I extends Item = Item> {
  id: string
  collectionId: string
  remoteId: string
  revision: string
  item: I
  /**
   * `missing`: a listing left it out; nothing follows from that until it was asked for by id. `outside`:
   * it is there, but no longer among what is to come in. Neither is planned with.
   */
  presence: 'present' | 'missing' | 'outside' | 'gone'
  /** For each canonical property, when its present value came about. */
  seen: Record<string, SeenSpan>
  firstSeenAt: number
}

export const ReleaseReason = z.enum([
  'no-time',
  'event-deleted',
  'task-deleted',
  'both-deleted',
  /** The service would not take the counterpart. */
  'refused',
])
export type ReleaseReason = z.infer<typeof ReleaseReason>

/** The record that item a and item b are the same work. */
export interface Tie {
  id: string
  /** Mirror ids; null while the counterpart is being made. */
  a: string | null
  b: string | null
  base: Base
  released: ReleaseReason | null
}

/** What a rule says (the settings of this version of the product). */
export const RuleSettings = z.object({
  /** Two edits whose times cannot be told apart: this side is kept. */
  fallback: z.enum(['a', 'b']),
  /** Items matched at the first pairing whose fields differ: this side is kept. */
  firstWinner: z.enum(['a', 'b']),
  /** Minutes, where the task has no estimate. */
  defaultMinutes: z.number().int().min(15).max(480),
  backDays: z.number().int().min(0).max(365),
  aheadDays: z.number().int().min(1).max(730),
  /** Put before an event's title when its task is completed. */
  mark: z.string().trim().min(1).max(4),
  notes: z.boolean(),
  /** Matches somebody said no to, as `taskMirrorId eventMirrorId`. */
  declined: z.array(z.string()).max(1000),
})
export type RuleSettings = z.infer<typeof RuleSettings>

export const defaultSettings: RuleSettings = {
  fallback: 'a',
  firstWinner: 'a',
  defaultMinutes: 30,
  backDays: 30,
  aheadDays: 120,
  mark: '✓',
  notes: true,
  declined: [],
}

/** What the lenses must know of the two services. */
export interface SideTerms {
  /** The zone in which the task service tells its hours; null when each time names its own. */
  zone: string | null
  summaryMaxLength: number | null
}

export interface Rule {
  id: string
  a: string
  b: string
  settings: RuleSettings
  terms: { a: SideTerms; b: SideTerms }
  /** For dates and floating times. */
  zone: string
  /** Epoch ms; null while the rule is only previewed. */
  enabledAt: number | null
}

export interface FieldChange {
  field: Field
  before: Raw
  after: Raw
}

interface WriteBase {
  tieId: string
  side: Side
  fields: FieldChange[]
  /** Becomes base, with the written side's value as the service returned it. */
  expect: Base
  /** The tie ends when this write is confirmed. */
  release: ReleaseReason | null
}

/** One write decided on. `revision` is the precondition. */
export type PlannedWrite =
  | (WriteBase & { op: 'create'; collectionId: string; item: Task | Event })
  | (WriteBase & { op: 'patch'; mirrorId: string; revision: string; patch: TaskPatch & EventPatch })
  | (WriteBase & { op: 'delete'; mirrorId: string; revision: string })

/** A value that lost against a newer one; it stays readable in the journal. */
export interface Overridden {
  field: Field
  side: Side
  value: Raw
  /** `fallback`: the two edits could not be told apart in time. */
  because: 'newer' | 'fallback' | 'first-winner'
}

export const DECISION_REASONS = [
  'task-has-hour',
  'new-event',
  'task-edited',
  'event-edited',
  'both-edited',
  'matched',
  'event-deleted',
  'task-deleted',
  'edit-beats-deletion',
  'no-hour',
  'no-date',
  'outside',
  'agreed',
  'held',
] as const
export type DecisionReason = (typeof DECISION_REASONS)[number]

/** What is to be done about one piece of work; shown by the preview, recorded by the pass. */
export interface Decision {
  effect: 'make' | 'change' | 'remove' | 'match' | 'release' | 'none'
  /** Where; null when nothing is written. */
  on: Side | null
  reason: DecisionReason
  /** For people. */
  title: string
  a: string | null
  b: string | null
  /** The tie as it is to stand before any write; null when there is none. */
  tie: Tie | null
  writes: PlannedWrite[]
  overridden: Overridden[]
  /** Why a field waits for a person. */
  held: { field: Field; reason: string }[]
}
