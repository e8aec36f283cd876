import type { Event, ItemPatch, Sighting, Task } from '@loom/core'

/**
 * The one interface every outside service is spoken to through. Rules and screens adapt to the declared
 * capabilities, never to a connector's name.
 */
export interface Connector {
  readonly capabilities: Capabilities
  /** Signs in, finds the account and its collections. */
  discover(): Promise<Account>
  /**
   * What changed in a collection since `token`; everything when it is null. A token the service no longer
   * takes gives a full listing. Absence from a listing is never reported as deletion.
   */
  delta(collection: string, token: string | null): Promise<Delta>
  /** One item by id, wherever it lives now. */
  read(collection: string, remoteId: string): Promise<ReadResult>
  /** Where an item with this uid lives now, in any collection of the account. */
  locate(uid: string): Promise<Sighting[]>
  /** Carries out writes with their preconditions; one outcome for each, in order. */
  write(writes: RemoteWrite[]): Promise<WriteResult[]>
  /** Asks for notifications; null where the service has none. */
  subscribe: ((callback: string, secret: string) => Promise<void>) | null
  /** Whether a notification was signed with `secret`. */
  isAuthentic(body: string, headers: (name: string) => string | undefined, secret: string): boolean
}

export interface Capabilities {
  /** Which kind of item its collections hold. */
  holds: 'task' | 'event'
  canHold: { estimate: boolean; location: boolean; due: boolean }
  summaryMaxLength: number | null
  datePrecision: 'minute' | 'second'
  preconditions: boolean
  notifications: boolean
  /** How many writes go into one call. */
  batch: number
}

export interface Account {
  /** As the service calls whoever signed in. */
  name: string
  /** In which local times are told; null where each names its own. */
  zone: string | null
  collections: FoundCollection[]
}

export interface FoundCollection {
  remoteId: string
  name: string
  colour: string | null
  holds: 'task' | 'event'
  writable: boolean
  /** How many items the service says it holds, if it does. */
  count: number | null
}

/** An item we cannot read; it is kept, listed with the reason, and does not stop the rest. */
export interface Problem {
  remoteId: string
  revision: string
  reason: string
  original: string
}

export interface RemoteItem extends Sighting {
  original: string
}

export interface Delta {
  items: RemoteItem[]
  problems: Problem[]
  /** Ids the service says have left; to be asked for one by one. */
  left: string[]
  token: string | null
  /** Whether this is the whole collection, so that what is not in it is missing. */
  full: boolean
}

export type ReadResult =
  { kind: 'found'; item: RemoteItem } | { kind: 'problem'; problem: Problem } | { kind: 'absent' }

export type RemoteWrite =
  | { op: 'create'; collection: string; item: Task | Event }
  | { op: 'patch'; collection: string; remoteId: string; revision: string; patch: ItemPatch }
  | { op: 'delete'; collection: string; remoteId: string; revision: string }

export type WriteResult =
  /** `item` is what the service holds now; `ours` says its revision is that of this very write. */
  | { kind: 'done'; item: RemoteItem | null; ours: boolean }
  /** The precondition failed: read again, plan again. */
  | { kind: 'conflict' }
  | { kind: 'absent' }
  /** It will not take this, now or later. */
  | { kind: 'refused'; reason: string }
  /** The outcome is unknown, or it was not tried. */
  | { kind: 'retry'; error: ServiceError }

export type TroubleKind =
  | 'unreachable'
  | 'timeout'
  | 'signed-out'
  | 'not-this-protocol'
  | 'slowed'
  | 'service-error'
  | 'refused-address'
  | 'missing'
  /** It understood and said no. */
  | 'refused'

/** Why a service could not be used; the message is a sentence for people. */
export class ServiceError extends Error {
  constructor(
    readonly trouble: TroubleKind,
    message: string,
    /** When the service asked to be left alone, ms. */
    readonly retryAfterMs: number | null = null,
  ) {
    super(message)
  }
}
