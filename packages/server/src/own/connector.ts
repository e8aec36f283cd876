import { randomUUID } from 'node:crypto'
import { type Connector, emptyPage, noTerms, type RemoteItem, type WriteResult } from '@loom/connectors'
import {
  type Item,
  Item as ItemSchema,
  type ItemPatch,
  composeEvent,
  parseEvent,
  parseTask,
  patchEventObject,
  patchTask,
  withPatch,
} from '@loom/core'
import type { Database, Sql } from '../data/database.ts'
import { lockWorkspace } from '../data/repositories/workspaces.ts'
import {
  lastOwnSeq,
  ownItemWithUid,
  putOwnItem,
  lockOwnItem,
  changeOwnItem,
  ownItemsSince,
  type OwnRow,
} from '../data/repositories/own-items.ts'
import { membersOfWorkspace } from '../data/repositories/members.ts'
import { OWN_TASKS, OWN_BLOCKS } from '../data/repositories/rules.ts'
import { json, type Json, parsed } from '../data/json.ts'

export const OWN_EVENTS = 'events'

export const intakeOf = (memberId: string): string => `intake-${memberId}`

const remote = (row: OwnRow): RemoteItem => ({
  remoteId: row.id,
  collectionId: row.collection,
  revision: String(row.revision),
  item: parsed(row.item),
  original: row.original ?? row.item,
})

const itemFrom = (original: string): Item =>
  original.startsWith('{')
    ? parsed(original as Json<Item>)
    : /^BEGIN:VTODO/im.test(original)
      ? parseTask(original)
      : parseEvent(original)

const patchObject = (text: string, kind: Item['kind'], patch: ItemPatch, now: number): string =>
  kind === 'task' ? patchTask(text, patch, now) : patchEventObject(text, patch, now)

/** The next number of our own items' order; the lock it takes keeps the order one. */
async function nextSeq(sql: Sql, workspaceId: string): Promise<number> {
  await lockWorkspace(sql, { workspaceId })
  const row = await lastOwnSeq(sql, {
    workspaceId,
  })
  return (row?.seq ?? 0) + 1
}

const stamped = (item: Item, now: number): Item => {
  const at = new Date(now).toISOString()
  const base = { ...item, created: item.created ?? at, lastModified: at }
  if (base.kind !== 'task') return base
  const done = base.status === 'completed'
  return { ...base, serviceStatus: base.status, completed: done ? (base.completed ?? at) : null }
}

/** Adds an item once: a uid that is there already stays as it is. Returns its id. */
export async function addOwn(
  sql: Sql,
  workspaceId: string,
  collection: string,
  item: Item,
  now: number,
  original: string | null = null,
): Promise<{ id: string; made: boolean }> {
  const known = await ownItemWithUid(sql, { workspaceId, uid: item.uid })
  if (known && known.deleted === 0) return { id: known.id, made: false }
  const id = known?.id ?? randomUUID()
  await putOwnItem(sql, {
    id,
    workspaceId,
    collection,
    uid: item.uid,
    seq: await nextSeq(sql, workspaceId),
    item: json(ItemSchema.parse(stamped(item, now))),
    original,
  })
  return { id, made: true }
}

/** The calendar object that is kept here under a UID; null where there is none, or none with an object. */
export async function ownObject(sql: Sql, workspaceId: string, uid: string): Promise<string | null> {
  const known = await ownItemWithUid(sql, { workspaceId, uid })
  const row = known && (await lockOwnItem(sql, { id: known.id, workspaceId }))
  return row?.original?.startsWith('BEGIN') ? row.original : null
}

/** Keeps an event as its object says it, in place of what was kept of its UID. Throws ZodError where it exceeds what is kept. */
export async function keepObject(
  sql: Sql,
  workspaceId: string,
  event: Item,
  original: string,
  now: number,
): Promise<void> {
  const { id, made } = await addOwn(sql, workspaceId, OWN_EVENTS, event, now, original)
  if (made) return
  const item = json(ItemSchema.parse(stamped(event, now)))
  await changeOwnItem(sql, { id, item, original, seq: await nextSeq(sql, workspaceId), deleted: 0 })
}

export async function removeOwnObject(
  sql: Sql,
  workspaceId: string,
  uid: string,
  now: number,
): Promise<void> {
  const known = await ownItemWithUid(sql, { workspaceId, uid })
  const row = known && (await lockOwnItem(sql, { id: known.id, workspaceId }))
  if (!row) return
  const item = json(stamped(parsed(row.item), now))
  const seq = await nextSeq(sql, workspaceId)
  await changeOwnItem(sql, { id: row.id, item, original: row.original, seq, deleted: 1 })
}

export function ownConnector(db: Database, workspaceId: string, now: () => number): Connector {
  const rowOf = (sql: Sql, id: string) =>
    lockOwnItem(sql, {
      id,
      workspaceId,
    })
  const change = (id: string, revision: string, patch: ItemPatch | null): Promise<WriteResult> =>
    db.commit(async (sql): Promise<WriteResult> => {
      const row = await rowOf(sql, id)
      if (!row) return { kind: 'absent' }
      if (String(row.revision) !== revision) return { kind: 'conflict' }
      const present = parsed(row.item)
      // What a canonical event cannot say is kept in an object.
      const object =
        row.original ?? (patch?.guests && present.kind === 'event' ? composeEvent(present, now()) : null)
      const original = object && patch ? patchObject(object, present.kind, patch, now()) : row.original
      // What a change of something that repeats comes to is read from the object it is written into.
      const repeats = present.recurring && (present.kind === 'task' || (patch !== null && 'series' in patch))
      const isRead = repeats || patch?.guests !== undefined
      const after = patch && original && isRead ? itemFrom(original) : withPatch(present, patch ?? {})
      const item = patch ? stamped(after, now()) : present
      const seq = await nextSeq(sql, workspaceId)
      const next = { ...row, revision: row.revision + 1, item: json(item), original }
      await changeOwnItem(sql, { id, item: next.item, original, seq, deleted: patch ? 0 : 1 })
      return { kind: 'done', item: patch ? remote(next) : null, ours: true }
    })

  return {
    capabilities: {
      canHold: { estimate: true, location: true, due: true, start: true, notes: true, priority: true },
      can: { create: true, change: true, complete: true, delete: true },
      summaryMaxLength: null,
      datePrecision: { start: 'second', due: 'second' },
      preconditions: true,
      listing: 'as-it-is',
      notifications: false,
      batch: 1,
      marksNotes: false,
    },
    async discover() {
      const members = await membersOfWorkspace(db, { workspaceId })
      const collection = (remoteId: string, name: string, itemKind: 'task' | 'event') => ({
        remoteId,
        name,
        itemKind,
        colour: null,
        writable: true,
        count: null,
        parent: null,
        whyNot: null,
        terms: noTerms,
      })
      return {
        name: 'Kept here',
        subject: 'own',
        zone: null,
        people: members.map(m => ({ ...m, me: false })),
        collections: [
          ...members.map(m => collection(intakeOf(m.id), `Intake of ${m.name}`, 'task')),
          collection(OWN_TASKS, 'Own tasks', 'task'),
          collection(OWN_EVENTS, 'Own events', 'event'),
          collection(OWN_BLOCKS, 'Work blocks', 'event'),
        ],
      }
    },
    glance: null,
    async *delta(collection, token) {
      const rows = await ownItemsSince(db, { workspaceId, since: Number(token ?? 0) })
      const page = emptyPage(token === null)
      const here = rows.filter(r => r.collection === collection && r.deleted === 0)
      page.items = here.map(remote)
      page.left =
        token === null ? [] : rows.filter(r => r.collection !== collection || r.deleted === 1).map(r => r.id)
      page.token = String(rows.at(-1)?.seq ?? token ?? 0)
      yield page
    },
    async read(_collection, remoteId) {
      const row = await rowOf(db, remoteId)
      return row ? { kind: 'found', item: remote(row) } : { kind: 'absent' }
    },
    locate: async () => [],
    async write(writes) {
      const results: WriteResult[] = []
      for (const w of writes) {
        if (w.op === 'patch') results.push(await change(w.remoteId, w.revision, w.patch))
        else if (w.op === 'delete') results.push(await change(w.remoteId, w.revision, null))
        else {
          const { id, made } = await db.commit(sql =>
            addOwn(sql, workspaceId, w.collection, w.item, now(), w.original ?? null),
          )
          const row = await rowOf(db, id)
          results.push(row ? { kind: 'done', item: remote(row), ours: made } : { kind: 'absent' })
        }
      }
      return results
    },
    subscribe: null,
    notified: () => null,
    interpret: (_collection, original) => ({ item: itemFrom(original), unknownStatus: null }),
    makeCollection: null,
    chat: null,
    skew: () => 0,
    restMs: () => null,
  }
}
