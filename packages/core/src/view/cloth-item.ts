import { type Event, type ItemPatch, type Task, type TaskStatus, withPatch } from '../items/items.ts'
import { type EventKind, noOwnLayer, type OwnLayer } from '../items/own-layer.ts'
import { isFixedMark, kindMarkOf } from '../items/kind-marks.ts'
import { dayOf, epochOf, MINUTE } from '../time/when.ts'
import { type Level, ONLY_LOOK } from '../access/level.ts'
import type { OtherFacts } from './both-sides.ts'
import { dueFacts, shortNotes, statusFacts, titleOr } from './item-facts.ts'

/** Where an item stands in time, for one viewer's zone. */
export type Place =
  | { kind: 'timed'; startMs: number; endMs: number }
  /** `to` is the day after the last (as DTEND). */
  | { kind: 'all-day'; from: string; to: string }
  /** Planned for a day, no hour chosen. */
  | { kind: 'day'; date: string }
  | { kind: 'none' }

/** A task as a batch lists it. */
export interface BatchTask {
  /** The task's mirror. */
  key: string
  title: string
  done: boolean
  /** False where its list can only be read. */
  completable: boolean
}

/** Time reserved for a task beside its own, in minutes. */
export interface BlockTime {
  ahead: number
  /** Of blocks that were marked as worked. */
  spent: number
}

/** One thing as the Cloth draws it: a tied pair is one item. */
export interface ClothItem {
  /** The mirror that edits are addressed to; with `@recurrenceId` for one occurrence of a series. */
  key: string
  /** `block`: further time for a task. `batch`: one block that holds several tasks. */
  kind: 'task' | 'event' | 'tied' | 'block' | 'batch'
  /** Taken time of somebody, of which whoever looks may know nothing else (an event without sources). */
  onlyBusy: boolean
  title: string
  place: Place
  done: boolean
  cancelled: boolean
  /** False for what is fixed: it has other attendees, repeats, or its calendar is read-only. */
  movable: boolean
  /** Why it cannot be moved, in words. */
  fixedBecause: string | null
  /** Whoever looks may not change it. */
  onlyLook: boolean
  /** It is movable, only not by whoever looks. */
  movableByOthers: boolean
  completable: boolean
  /** Collections it comes from: the task list first. */
  sources: string[]
  /** Members it concerns: who a task is given to, else whose account it comes from. */
  people: string[]
  due: string | null
  /** Epoch ms, where the deadline has an hour. */
  dueAt: number | null
  overdue: boolean
  /** 1 highest … 9 lowest, 0 none (RFC 5545 §3.8.1.9). */
  priority: number
  status: TaskStatus | null
  serviceStatus: string
  categories: string[]
  /** Minutes; null without an estimate. */
  estimate: number | null
  location: string
  /** The beginning of its notes, for looking through. */
  notes: string
  busy: boolean
  recurring: boolean
  /** A series that is drawn once, as it repeats too often: says so in a sentence. */
  tooOften: string | null
  eventKind: EventKind
  /** Any day of the week that begins on this Monday. */
  week: string | null
  /** Out of sight until this day; '' without a date. */
  putBy: string | null
  /** Left out of the viewer's own plan, and of their load. */
  leftOut: boolean
  /** How often the day or week that it was planned for ended without it. */
  slips: number
  /** Set if we keep the planned time because the service has no field for it; `minutes`: a length set by hand. */
  planHere: { minutes: number | null } | null
  /** It stands where its deadline is shown, and not at a planned time. */
  atDeadline: boolean
  blocks: BlockTime
  /** The task that it is a part of. */
  partOf: { key: string; title: string } | null
  /** The task a block is for. */
  of: string | null
  batch: BatchTask[]
  /** Both sides changed the same field; a person must decide. */
  conflict: boolean
  /** A change of ours is on its way to the service. */
  pending: boolean
}

export interface ItemSource<I> {
  id: string
  item: I
  collectionId: string
  pending: boolean
  /** A change of its planned time is on its way. */
  pendingStart?: boolean
  writable: boolean
  own?: OwnLayer
  people?: string[]
  leftOut?: boolean
  /** The accounts of members at its service. */
  accounts?: Readonly<Record<string, string>>
  /** Whether its service itself says how long it takes. */
  holdsEstimate?: boolean
  /** Properties that its service does not support or does not let us change. */
  unsupported?: ReadonlySet<string>
  /** Minutes in which its service counts work, where it does not count to the minute. */
  estimateStep?: number | null
  /** The service that it is kept at, by whatever account it is seen, with the list there; and the account. */
  kept?: { service: string; list: string; connectionId: string }
  /** Whether its guests are told from here what becomes of it; else by its own service. */
  tellsGuests?: boolean
  /** Whoever else invites to it, by mail address: what it says is theirs to change. */
  invitedBy?: string
  /** What whoever looks may know of it; absent where they may change it. */
  level?: Level
  /** Of what is lowered: why it is fixed, null where it is movable. */
  fixed?: string | null
  /** Of what is lowered: whoever looks may complete it, as it is given to them. */
  completes?: boolean
  /** Of what is lowered: whether its service keeps its planned time. */
  holdsPlan?: boolean
  /** It is one date of a series. */
  dateOf?: { seriesId: string; occurrence: string }
}

/** The source with a person's edit that no service has confirmed yet. */
export const withOpenEdit = <I extends Task | Event>(
  source: ItemSource<I>,
  patch: ItemPatch,
): ItemSource<I> => ({
  ...source,
  item: withPatch(source.item, patch),
  pending: true,
  ...('start' in patch && { pendingStart: true }),
})

/** Whether a task's planned time is kept by its service; else it is kept by us. */
export const holdsPlan = (task: Pick<ItemSource<Task>, 'writable' | 'unsupported' | 'holdsPlan'>): boolean =>
  task.holdsPlan ?? (task.writable && !task.unsupported?.has('start'))

/** How one date of a series is addressed. */
export const dateKey = ({ seriesId, occurrence }: NonNullable<ItemSource<unknown>['dateOf']>): string =>
  `${seriesId}@${occurrence}`

export interface Viewer {
  zone: string
  /** Minutes that a task without an estimate counts for. */
  defaultMinutes: number
  now: number
}

/** What else the Cloth knows of an item: the blocks of a task, the task of a block, the tasks of a batch. */
export interface Around {
  blocks?: BlockTime
  blockOf?: ItemSource<Task>
  batch?: BatchTask[]
  conflict?: boolean
  /** Collections that hold the same by a rule, beside those of the item itself. */
  also?: string[]
  /** Whose calendars hold the same meeting. */
  meet?: string[]
  /** The title of the task that it is a part of. */
  partOf?: { key: string; title: string }
  /** What only another side of a pair says. */
  facts?: OtherFacts
}

export const MARKED_FIXED = 'It is marked fixed.'

/** Whether whoever looks may only look. */
export const onlyLooks = ({ level }: Pick<ItemSource<unknown>, 'level'>): boolean =>
  level !== undefined && level !== 'change'

export const invitedWords = (by: string): string =>
  `${by} invites to it, and says what it is and when. Your answer is under Invitations.`

export function fixedBecause(event: ItemSource<Event>): string | null {
  if (event.fixed !== undefined) return event.fixed
  const { item, own = noOwnLayer } = event
  if (!event.writable) return 'Its calendar can only be read.'
  if (event.invitedBy !== undefined) return invitedWords(event.invitedBy)
  if (own.movable === false) return MARKED_FIXED
  if (own.movable === true) return null
  if (item.attendees > 0 && !event.tellsGuests)
    return 'It has guests. Move it in its own calendar, so that they are told.'
  if (item.categories.some(isFixedMark)) return 'Its calendar says that it is fixed.'
  return null
}

/** A fixed event keeps its time unless somebody says otherwise; one with guests or a mark can be said to be movable. */
export const canBeFreed = (event: ItemSource<Event>): boolean =>
  event.writable && !event.item.recurring && event.invitedBy === undefined

function eventPlace(event: Event, zone: string): Place {
  const { anchor, minutes } = event.time
  if (anchor.kind === 'date') {
    const from = anchor.date
    const last = epochOf(anchor, 'UTC') + Math.max(1440, minutes) * MINUTE
    return { kind: 'all-day', from, to: new Date(last).toISOString().slice(0, 10) }
  }
  const startMs = epochOf(anchor, zone)
  return { kind: 'timed', startMs, endMs: startMs + minutes * MINUTE }
}

function taskPlace(source: ItemSource<Task>, viewer: Viewer): Place {
  const { item: task, own } = source
  if (!task.start) return { kind: 'none' }
  if (task.start.kind === 'date') return { kind: 'day', date: task.start.date }
  const startMs = epochOf(task.start, viewer.zone)
  const planned = holdsPlan(source) ? null : (own?.planMinutes ?? null)
  const minutes = planned ?? task.estimatedDuration ?? viewer.defaultMinutes
  return { kind: 'timed', startMs, endMs: startMs + minutes * MINUTE }
}

export const noBlocks: BlockTime = { ahead: 0, spent: 0 }

/**
 * Draws a task, an event, or a tied pair as one item. A pair takes its words from the task and its place from the
 * event. A time of the task that is still on its way to the event is shown at once.
 */
export function clothItem(
  task: ItemSource<Task> | null,
  event: ItemSource<Event> | null,
  viewer: Viewer,
  around: Around = {},
): ClothItem | null {
  if (task) return taskItem(task, event, viewer, around)
  if (!event || event.item.status === 'cancelled') return null
  const because = fixedBecause(event)
  const { item, own = noOwnLayer } = event
  const task0 = around.blockOf
  const closed = task0?.item.status === 'completed' || task0?.item.status === 'cancelled'
  return {
    key: event.dateOf ? dateKey(event.dateOf) : event.id,
    onlyBusy: false,
    kind: isBatch(event, around) ? 'batch' : task0 ? 'block' : 'event',
    title: titleOr(item.summary),
    place: eventPlace(item, viewer.zone),
    done: own.spent || closed,
    cancelled: false,
    ...movableFacts(null, event, because),
    completable: false,
    sources: placesOf(task0, event, around),
    people: [...new Set([...(task0?.people ?? event.people ?? []), ...(around.meet ?? [])])],
    due: task0?.item.due ? dayOf(task0.item.due, viewer.zone) : null,
    dueAt: null,
    overdue: false,
    priority: task0?.item.priority ?? item.priority,
    status: null,
    serviceStatus: '',
    categories: item.categories,
    estimate: null,
    location: item.location,
    notes: shortNotes(item.description),
    busy: item.transparency === 'opaque' && !closed,
    recurring: item.recurring || event.dateOf !== undefined,
    tooOften: null,
    eventKind: kindOf(event, around),
    week: null,
    putBy: null,
    leftOut: event.leftOut ?? false,
    slips: 0,
    planHere: null,
    atDeadline: false,
    blocks: noBlocks,
    partOf: null,
    of: task0?.id ?? null,
    batch: around.batch ?? [],
    conflict: around.conflict ?? false,
    pending: event.pending,
  }
}

/** A batch is one before the first task is in it. */
const isBatch = ({ item, own }: Pick<ItemSource<Event>, 'item' | 'own'>, around: Around): boolean =>
  around.batch !== undefined || (own?.eventKind ?? kindMarkOf(item.categories)) === 'batch'

/** What an event says of itself: a mark by hand, its calendar's word, or that it has guests. */
export const kindOfEvent = ({ item, own = noOwnLayer }: Pick<ItemSource<Event>, 'item' | 'own'>): EventKind =>
  own.eventKind ?? kindMarkOf(item.categories) ?? (item.attendees > 0 ? 'meeting' : 'other')

function kindOf(event: ItemSource<Event>, around: Around): EventKind {
  if (isBatch(event, around)) return 'batch'
  return around.blockOf ? 'task block' : kindOfEvent(event)
}

/** A pair of which one half may only be looked at is changed by the other, and not moved where both would move. */
const movableFacts = (
  task: Pick<ItemSource<unknown>, 'level'> | null,
  event: Pick<ItemSource<unknown>, 'level'> | null,
  because: string | null,
): Pick<ClothItem, 'movable' | 'fixedBecause' | 'onlyLook' | 'movableByOthers'> => {
  const looks = onlyLooks(task ?? event ?? {})
  return {
    movable: because === null && !looks,
    fixedBecause: because ?? (looks ? ONLY_LOOK : null),
    onlyLook: looks,
    movableByOthers: because === null && looks,
  }
}

function taskItem(
  task: ItemSource<Task>,
  event: ItemSource<Event> | null,
  viewer: Viewer,
  around: Around,
): ClothItem {
  const { own = noOwnLayer } = task
  const { facts = {} } = around
  const item: Task = {
    ...task.item,
    estimatedDuration: task.item.estimatedDuration ?? facts.estimate ?? null,
    due: task.item.due ?? facts.due ?? null,
    priority: task.item.priority || (facts.priority ?? 0),
    categories: facts.categories ?? task.item.categories,
    description: task.item.description || (facts.notes ?? ''),
  }
  const status = statusFacts(item.status)
  const taskLeads =
    !event ||
    (holdsPlan(task) && (task.pendingStart || (item.start === null && !isByDue(item, event, viewer.zone))))
  const place = taskLeads ? taskPlace({ ...task, item }, viewer) : eventPlace(event.item, viewer.zone)
  const because = event && fixedBecause(event)
  return {
    key: task.id,
    onlyBusy: false,
    kind: event ? 'tied' : 'task',
    title: titleOr(item.summary),
    place: keepLength(place, event, taskLeads),
    ...status,
    ...movableFacts(task, event, because),
    completable: task.completes ?? task.writable,
    sources: placesOf(task, event, around),
    people: facts.people ?? task.people ?? [],
    ...dueFacts(item.due, status.done, viewer),
    priority: item.priority,
    serviceStatus: item.serviceStatus,
    categories: item.categories,
    estimate: item.estimatedDuration,
    location: (event?.item.location || task.item.location) ?? '',
    notes: shortNotes(item.description),
    recurring: item.recurring,
    tooOften: null,
    eventKind: 'task block',
    week: item.start ? null : own.week,
    putBy: own.putBy,
    leftOut: task.leftOut ?? false,
    slips: own.slips,
    planHere: holdsPlan(task) ? null : { minutes: own.planMinutes },
    atDeadline: event !== null && !taskLeads && (item.start === null || !holdsPlan(task)),
    blocks: around.blocks ?? noBlocks,
    partOf: around.partOf ?? null,
    of: null,
    batch: [],
    conflict: around.conflict ?? false,
    pending: task.pending || (event?.pending ?? false),
  }
}

/** Its event follows the deadline, and not a plan. */
const isByDue = ({ due }: Task, event: ItemSource<Event>, zone: string): boolean =>
  due !== null && dayOf(due, zone) === dayOf(event.item.time.anchor, zone)

/** Where it is found, the task's list first. */
const placesOf = (
  task: ItemSource<Task> | null | undefined,
  event: ItemSource<Event> | null,
  { also = [] }: Around,
): string[] => [
  ...new Set([...(task ? [task.collectionId] : []), ...(event ? [event.collectionId] : []), ...also]),
]

/** A task's new hour keeps the length its event has. */
function keepLength(place: Place, event: ItemSource<Event> | null, taskLeads: boolean): Place {
  if (!event || !taskLeads || place.kind !== 'timed' || event.item.time.anchor.kind === 'date') return place
  return { ...place, endMs: place.startMs + event.item.time.minutes * MINUTE }
}

/** What of a task still needs time: its estimate less what its blocks hold or have spent. */
export function unplacedMinutes(item: ClothItem, defaultMinutes: number): number {
  const whole = item.estimate ?? defaultMinutes
  return Math.max(0, whole - item.blocks.ahead - item.blocks.spent)
}
