import { placesOfCollections, type PlaceRow } from '../data/repositories/collection-views.ts'
import { atService } from '../data/repositories/chosen-items.ts'
import { subtasksOf, parentNamed } from '../data/repositories/subtasks.ts'
import {
  clothItem,
  type ClothItem,
  epochOf,
  type Event,
  type EventKind,
  type ItemSource,
  reaches,
  seriesDate,
  type Task,
  type Viewer,
  type When,
  understoodOr,
  onlyLooks,
} from '@loom/core'
import { sightIn } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { rulesToChange } from '../sync/rules/rule-rights.ts'
import { guestsOf, type GuestsOf } from './guests.ts'
import { seenTitles } from './rights.ts'
import { drawn, loadPairs, pairOf } from './pairs.ts'
import { dateAt } from '../data/repositories/series.ts'
import { namesAtService } from '../data/repositories/people.ts'
import { blocksOf } from '../data/repositories/cloth.ts'
import { termsOf } from '../data/repositories/collections.ts'
import { originalOf } from '../data/repositories/originals.ts'
import { ruleOfItem } from '../data/repositories/rules.ts'

import type { Member } from '../data/repositories/sessions.ts'
import { parsed } from '../data/json.ts'

/** Everything about one item, for the drawer. */

export interface ItemDetails {
  item: ClothItem
  task: DetailSide | null
  event: DetailSide | null
  description: string
  url: string | null
  /** The service's own name of its status. */
  statusThere: string | null
  due: When | null
  assignees: { id: string; name: string }[]
  /** Whom it may be given to, as its service tells them apart. */
  people: { id: string; name: string }[]
  transparency: 'opaque' | 'transparent' | null
  class: 'public' | 'private' | 'confidential' | null
  kind: EventKind
  /** Null of a task, and where only its title is seen. */
  guests: GuestsOf | null
  /** The rule that keeps it in step, and the pair of it. */
  rule: { id: string; name: string; tie: string } | null
  parts: { key: string; title: string; done: boolean; completable: boolean }[]
  parent: { key: string; title: string } | null
  blocks: { key: string; title: string; startMs: number; minutes: number; spent: boolean; place: string }[]
  batches: { key: string; title: string; startMs: number }[]
  /** Whether it is kept private here; null for whom it is not to say. */
  keptPrivate: boolean | null
  /** Whether whoever looks may change it. */
  mayChange: boolean
}

export interface DetailSide {
  key: string
  collectionId: string
  place: string
  /** Where it can be seen at its service. */
  url: string | null
  writable: boolean
  /** Properties that its service has no room for, or takes from nobody. */
  unsupported: string[]
  created: string | null
  lastModified: string | null
}

export async function itemDetails(
  sql: Sql,
  member: Member,
  key: string,
  viewer: Viewer,
): Promise<ItemDetails | null> {
  const [id = key, occurrence] = key.split('@')
  // A date that a rule pairs is known by itself; of any other, its series tells.
  const date = occurrence ? await dateAt(sql, { id, occurrence }) : null
  const at = date?.id ?? id
  const ids = [...new Set([id, at])]
  const { pairs, batches: held } = await loadPairs(sql, member, ids)
  const pair = pairOf(pairs, at)
  const whole = pair && drawn(pair, viewer)
  const item = whole && occurrence ? await onDate(sql, whole, key, held.get(key), viewer) : whole
  if (!pair || !item) return null
  const { task, event } = pair
  const lead = task ?? event
  if (!lead) return null
  const places = await placesOf(
    sql,
    [task, event].flatMap(s => (s ? s.collectionId : [])),
  )
  const home = places.get(lead.collectionId)
  const mayChange = !onlyLooks(lead)
  const people = home ? await namesAtService(sql, { id: home.connection_id }) : []
  const assigned = task?.item.assignees ?? []
  const blocks = task ? await blocksOf(sql, { id: task.id, role: 'block' }) : []
  const batches = task ? await batchesWith(sql, task.id, viewer.zone) : []
  const family = await familyOf(sql, member.workspaceId, task)
  // What belongs to it is seen by itself, or not.
  const beside = [...blocks, ...batches, ...family.parts, ...(family.parent ? [family.parent] : [])]
  const idOf = ({ key: k }: { key: string }): string => k.split('@')[0] ?? k
  const seen = new Set(await seenTitles(sql, member, beside.map(idOf)))
  const isSeen = (one: { key: string }): boolean => seen.has(idOf(one))
  const rules = await rulesToChange(sql, member)
  const rule = await ruleOf(sql, at)
  const sight = await sightIn(sql, member)
  return {
    item,
    task: task && sideOf(task, places),
    event: event && sideOf(event, places),
    description: lead.item.description,
    url: lead.item.url,
    statusThere: task ? await statusName(sql, task) : null,
    due: task?.item.due ?? null,
    assignees: assigned.map(a => people.find(p => p.id === a) ?? { id: a, name: a }),
    people: mayChange ? people : [],
    transparency: event?.item.transparency ?? null,
    class: event?.item.class ?? null,
    kind: item.eventKind,
    guests: event && seesGuests(event) ? await guestsOf(sql, member, event.id) : null,
    rule: rule && rules.has(rule.id) ? rule : null,
    parts: family.parts.filter(isSeen),
    parent: family.parent && isSeen(family.parent) ? family.parent : null,
    keptPrivate: sight.owns(lead.collectionId) ? (lead.own?.private ?? false) : null,
    mayChange,
    blocks: blocks.filter(isSeen).map(({ date: _, ...b }) => ({
      ...b,
      minutes: Number(b.minutes),
      spent: Number(b.spent) === 1,
    })),
    batches: batches.filter(isSeen),
  }
}

/** They are part of what is seen of an event as a whole; of one date of a series its calendar tells. */
const seesGuests = ({ level = 'change', dateOf }: ItemSource<Event>): boolean =>
  reaches(level, 'everything') && dateOf === undefined

async function statusName(sql: Sql, task: ItemSource<Task>): Promise<string | null> {
  const row = await termsOf(sql, {
    id: task.collectionId,
  })
  const terms = row ? parsed(row.terms) : null
  return terms?.statuses.find(s => s.id === task.item.serviceStatus)?.name ?? null
}

/** The batches that a task is in; of one that repeats, the date. */
async function batchesWith(sql: Sql, taskId: string, zone: string): Promise<ItemDetails['batches']> {
  const rows = await blocksOf(sql, { id: taskId, role: 'batch' })
  const found: ItemDetails['batches'] = []
  for (const { key, title, startMs, date } of rows) {
    if (!date) {
      found.push({ key, title, startMs })
      continue
    }
    const row = await originalOf(sql, { id: key })
    const on = row && understoodOr(() => seriesDate(row.original, date), null)
    if (on) found.push({ key: `${key}@${date}`, title, startMs: epochOf(on.event.time.anchor, zone) })
  }
  return found
}

async function placesOf(sql: Sql, ids: string[]): Promise<Map<string, PlaceRow>> {
  const rows = await placesOfCollections(sql, { ids })
  return new Map(rows.map(r => [r.id, r]))
}

function sideOf(source: ItemSource<Task> | ItemSource<Event>, places: Map<string, PlaceRow>): DetailSide {
  const { item } = source
  return {
    key: source.id,
    collectionId: source.collectionId,
    place: places.get(source.collectionId)?.place ?? '',
    url: item.url,
    writable: source.writable,
    unsupported: [...(source.unsupported ?? [])],
    created: item.created,
    lastModified: item.lastModified,
  }
}

async function ruleOf(sql: Sql, id: string): Promise<ItemDetails['rule']> {
  return ruleOfItem(sql, { id })
}

/** A series as one of its dates: when that is, what it is called, and what it holds if it is a batch. */
async function onDate(
  sql: Sql,
  item: ClothItem,
  key: string,
  batch: ClothItem['batch'] | undefined,
  viewer: Viewer,
): Promise<ClothItem> {
  const [id = key, occurrence = ''] = key.split('@')
  const row = await originalOf(sql, {
    id,
  })
  const date = row?.original.startsWith('BEGIN:VCALENDAR')
    ? understoodOr(() => seriesDate(row.original, occurrence), null)
    : null
  const shown = date && item.kind !== 'tied' && clothItem(null, { ...NO_SOURCE, item: date.event }, viewer)
  return {
    ...item,
    ...(item.kind !== 'tied' && { key }),
    ...(shown && { title: shown.title, place: shown.place }),
    ...(batch && { batch }),
  }
}
const NO_SOURCE = { id: '', collectionId: '', pending: false, writable: true }

async function familyOf(
  sql: Sql,
  workspaceId: string,
  task: ItemSource<Task> | null,
): Promise<Pick<ItemDetails, 'parts' | 'parent'>> {
  if (!task) return { parts: [], parent: null }
  const self = await atService(sql, { id: task.id })
  if (!self) return { parts: [], parent: null }
  const parts = await subtasksOf(sql, {
    workspaceId,
    connection: self.connection_id,
    uid: task.item.uid,
    remote: self.remote_id,
  })
  const parent = task.item.parent
    ? await parentNamed(sql, { connection: self.connection_id, parent: task.item.parent })
    : null
  return {
    parent,
    parts: parts.map(p => ({
      key: p.key,
      title: p.title,
      done: p.status === 'completed' || p.status === 'cancelled',
      completable: p.writable === 1,
    })),
  }
}
