import {
  understand,
  type Event,
  type ItemPatch,
  type Meaning,
  noTerms,
  type Sighting,
  type Task,
  type Terms,
} from '@loom/core'

/**
 * The one interface every outside service is spoken to through. Rules and screens adapt to the declared
 * capabilities, never to a connector's name.
 */
export interface Connector {
  readonly capabilities: Capabilities
  /** Signs in, finds the account, its collections and its people. */
  discover(): Promise<Account>
  /**
   * The changes in a collection since `token`, page by page; everything if `token` is null. If the service no
   * longer accepts the token, the answer is a full listing. Absence from a listing is never reported as a
   * deletion.
   */
  delta(collection: string, token: string | null, options?: DeltaOptions): AsyncIterable<DeltaPage>
  /** One cheap look whether anything has moved; null where only `delta` can tell. */
  glance: ((since: ReadonlyMap<string, string | null>) => Promise<Glance>) | null
  /** One item by id, wherever it lives now. */
  read(collection: string, remoteId: string): Promise<ReadResult>
  /** Where an item with this uid lives now, in any collection of the account. */
  locate(uid: string): Promise<Sighting[]>
  /** Carries out writes with their preconditions; one outcome for each, in order. */
  write(writes: RemoteWrite[]): Promise<WriteResult[]>
  /** Asks for notifications; null where the service has none. */
  subscribe: ((callback: string, secret: string) => Promise<void>) | null
  /** The item a notification is about, '' if it does not say; null when `secret` did not sign it. */
  notified(body: string, headers: (name: string) => string | undefined, secret: string): Notified | null
  /** What an original kept earlier reads as, with the meaning of today; null for what is not understood. */
  interpret(collection: string, original: string): { item: Task | Event; unknownStatus: string | null } | null
  /** Makes a calendar or list; null where the service cannot. */
  makeCollection: ((name: string, colour: string) => Promise<FoundCollection>) | null
  /** Where people write to one another; null where they do not. */
  chat: Chat | null
  /** The service's clock minus ours as last seen, ms. */
  skew(): number
  /** How long the service asks to be left alone between two looks, ms; null when it does not say. */
  restMs(): number | null
}

/** All of it may throw ServiceError. */
export interface Chat {
  /** Characters. */
  maxLength: number
  /** Writes into a channel, which is a collection. It is not tried again: nobody wants to read it twice. */
  post(channel: string, text: string): Promise<void>
  /** What the person who signed in is at, until then (epoch ms); null clears it. Null where there is no such thing. */
  say: ((status: { text: string; untilMs: number } | null) => Promise<void>) | null
}

/**
 * What a glance at an account tells. A collection has a mark, by its id, that changes whenever anything in it does;
 * one without a mark cannot tell. The marks of two glances compare only if the same `since` was asked: the token of
 * each collection's last reading.
 */
export interface Glance {
  marks: ReadonlyMap<string, string>
  /** How many requests it took. */
  requests: number
}

export interface DeltaOptions {
  /** Where an earlier, unfinished listing goes on. */
  cursor?: string | null
  /** Revisions we hold of these items: what is the same need not be fetched. */
  revisions?: (remoteIds: string[]) => Promise<Map<string, string>>
}

export type DatePrecision = 'day' | 'minute' | 'second'

export interface Capabilities {
  canHold: {
    estimate: boolean
    location: boolean
    due: boolean
    start: boolean
    notes: boolean
    priority: boolean
  }
  can: { create: boolean; change: boolean; complete: boolean; delete: boolean }
  summaryMaxLength: number | null
  datePrecision: Record<'start' | 'due', DatePrecision>
  /** Whether the service itself refuses a write upon something changed; otherwise we read first. */
  preconditions: boolean
  /** `may-lag`: what a listing says of an item may be older than what a write, or asking by id, showed of it. */
  listing: 'as-it-is' | 'may-lag'
  notifications: boolean
  /** How many writes go into one call. */
  batch: number
  /** A creation bears our mark in its notes until its outcome is known: the service has no other place for one. */
  marksNotes: boolean
}

export interface Person {
  id: string
  name: string
  email: string | null
  /** The person who signed in. */
  me: boolean
}

export interface Account {
  /** The service's name for the person who signed in. */
  name: string
  /** Who that is, by the service's own id; the same whatever way the address is spelt. */
  subject: string
  /** In which local times are told; null where each names its own. */
  zone: string | null
  collections: FoundCollection[]
  /** Empty where the service does not say who there is. */
  people: Person[]
}

export { noTerms, type Terms }

export interface FoundCollection {
  remoteId: string
  name: string
  colour: string | null
  itemKind: 'task' | 'event'
  writable: boolean
  /** How many items the service says it holds, if it does. */
  count: number | null
  /** The collection it lies in. */
  parent: string | null
  /** Why it cannot take part, as a sentence; null when it can. */
  whyNot: string | null
  terms: Terms
}

/** What a notification says: an item's id or '', and when it was made, epoch ms, where it tells. */
export interface Notified {
  item: string
  at: number | null
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
  /** A status of the service that has no meaning here yet; it changes nothing. */
  unknownStatus?: string | null
}

export interface DeltaPage {
  items: RemoteItem[]
  problems: Problem[]
  /** Listed with a revision we hold. */
  unchanged: string[]
  /** Ids the service says have left; to be asked for one by one. */
  left: string[]
  /** How many there are in all, if the service says. */
  total: number | null
  /** Where to go on after this page; null on the last. */
  cursor: string | null
  /** For next time; told on the last page. */
  token: string | null
  /** Whether the pages together are the whole collection, so that what is in none is missing. */
  full: boolean
}

export const emptyPage = (full: boolean): DeltaPage => ({
  items: [],
  problems: [],
  unchanged: [],
  left: [],
  total: null,
  cursor: null,
  token: null,
  full,
})

export type ReadResult =
  { kind: 'found'; item: RemoteItem } | { kind: 'problem'; problem: Problem } | { kind: 'absent' }

export type RemoteWrite =
  /**
   * `triedAgoMs`: how long ago an earlier try was sent whose result is unknown; null if there was none.
   * `original`: the calendar object it came from, kept unchanged if the service can.
   */
  | { op: 'create'; collection: string; item: Task | Event; triedAgoMs: number | null; original?: string }
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
  /**
   * The write was not sent, because nobody can tell whether an earlier try took effect. `againMs`: another check
   * decides by then; null if only a person can decide.
   */
  | { kind: 'unsure'; reason: string; againMs: number | null }
  /** The outcome is unknown, or it was not tried. */
  | { kind: 'retry'; error: ServiceError }

/** Meanings by collection; a collection without one is read by the service's own suggestions. */
export type Meanings = Record<string, Meaning>

export type TroubleKind =
  | 'unreachable'
  | 'timeout'
  | 'signed-out'
  | 'not-this-protocol'
  | 'slowed'
  | 'service-error'
  /** More at once than is taken: of fewer things, it would be less. */
  | 'too-large'
  | 'refused-address'
  | 'missing'
  /** It sends on to another server, which the person has not agreed to. */
  | 'other-origin'
  /** It does not know this kind of question; another will do. */
  | 'unsupported-report'
  /** It understood and said no. */
  | 'refused'

/** The result of a write that ended in an error. A write that cannot be composed fails alone. */
export function failedWrite(error: unknown): WriteResult {
  if (!(error instanceof ServiceError)) {
    const { because } = understand((): never => {
      throw error
    }) as { because: string }
    return { kind: 'refused', reason: because }
  }
  return error.trouble === 'refused' ? { kind: 'refused', reason: error.message } : { kind: 'retry', error }
}

/** Why a service could not be used; the message is a sentence for people. */
export class ServiceError extends Error {
  constructor(
    readonly trouble: TroubleKind,
    message: string,
    /** When the service asked to be left alone, ms. */
    readonly retryAfterMs: number | null = null,
    /** Of `other-origin`: where it sends on to. */
    readonly origin: string | null = null,
  ) {
    super(message)
  }
}
