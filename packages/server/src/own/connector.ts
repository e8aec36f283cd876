import { randomUUID } from 'node:crypto'
import { type Connector, emptyPage, noTerms, type RemoteItem, type WriteResult } from '@loom/connectors'
import {
  type Item,
  Item as ItemSchema,
  type ItemPatch,
  parseEvent,
  parseTask,
  patchEventObject,
  patchTask,
  withPatch,
} from '@loom/core'
import type { Database, Sql } from '../data/database.ts'

/**
 * Amber Loom's own lists and calendar: what is captured here, forwarded by mail or brought in from a file.
 * To rules and screens they are collections like any other.
 */
export const OWN = 'own'

export const OWN_TASKS = 'tasks'
export const OWN_EVENTS = 'events'
/** Blocks and batches that stay in our own layer, so that nobody's calendar is filled with them. */
export const OWN_BLOCKS = 'blocks'
export const intakeOf = (memberId: string): string => `intake-${memberId}`

interface OwnRow {
  id: string
  collection: string
  revision: number
  seq: number
  deleted: number
  item: string
  /** The calendar object it came as from a file, a series say. */
  original: string | null
}

const remote = (row: OwnRow): RemoteItem => ({
  remoteId: row.id,
  collectionId: row.collection,
  revision: String(row.revision),
  item: JSON.parse(row.item) as Item,
  original: row.original ?? row.item,
})

const itemFrom = (original: string): Item =>
  original.startsWith('{')
    ? (JSON.parse(original) as Item)
    : /^BEGIN:VTODO/im.test(original)
      ? parseTask(original)
      : parseEvent(original)

const patchObject = (text: string, kind: Item['kind'], patch: ItemPatch, now: number): string =>
  kind === 'task' ? patchTask(text, patch, now) : patchEventObject(text, patch, now)

/** The next number of our own items' order; the lock it takes keeps the order one. */
async function nextSeq(sql: Sql, workspaceId: string): Promise<number> {
  await sql.one('SELECT id FROM workspaces WHERE id = :workspaceId FOR UPDATE', { workspaceId })
  const row = await sql.one<{ seq: number | null }>(
    'SELECT MAX(seq) AS seq FROM own_items WHERE workspace_id = :workspaceId',
    {
      workspaceId,
    },
  )
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
  const known = await sql.one<{ id: string; deleted: number }>(
    'SELECT id, deleted FROM own_items WHERE workspace_id = :workspaceId AND uid = :uid',
    { workspaceId, uid: item.uid },
  )
  if (known && known.deleted === 0) return { id: known.id, made: false }
  const id = known?.id ?? randomUUID()
  await sql.insert(
    `INSERT INTO own_items (id, workspace_id, collection, uid, revision, seq, item, original)
     VALUES (:id, :workspaceId, :collection, :uid, 1, :seq, :item, :original)
     ON DUPLICATE KEY UPDATE deleted = 0, revision = revision + 1, seq = VALUES(seq), item = VALUES(item),
       original = VALUES(original), collection = VALUES(collection)`,
    {
      id,
      workspaceId,
      collection,
      uid: item.uid,
      seq: await nextSeq(sql, workspaceId),
      item: JSON.stringify(ItemSchema.parse(stamped(item, now))),
      original,
    },
  )
  return { id, made: true }
}

export function ownConnector(db: Database, workspaceId: string, now: () => number): Connector {
  const rowOf = (sql: Sql, id: string) =>
    sql.one<OwnRow>(
      'SELECT * FROM own_items WHERE id = :id AND workspace_id = :workspaceId AND deleted = 0 FOR UPDATE',
      {
        id,
        workspaceId,
      },
    )
  const change = (id: string, revision: string, patch: ItemPatch | null): Promise<WriteResult> =>
    db.commit(async (sql): Promise<WriteResult> => {
      const row = await rowOf(sql, id)
      if (!row) return { kind: 'absent' }
      if (String(row.revision) !== revision) return { kind: 'conflict' }
      const present = JSON.parse(row.item) as Item
      const original =
        row.original && patch ? patchObject(row.original, present.kind, patch, now()) : row.original
      // What a change of something that repeats comes to is read from the object it is written into.
      const repeats = present.recurring && (present.kind === 'task' || (patch !== null && 'series' in patch))
      const after = patch && original && repeats ? itemFrom(original) : withPatch(present, patch ?? {})
      const item = patch ? stamped(after, now()) : present
      const seq = await nextSeq(sql, workspaceId)
      const next = { ...row, revision: row.revision + 1, item: JSON.stringify(item), original }
      await sql.run(
        `UPDATE own_items SET item = :item, original = :original, revision = revision + 1, seq = :seq,
           deleted = :deleted WHERE id = :id`,
        { id, item: next.item, original, seq, deleted: patch ? 0 : 1 },
      )
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
    },
    async discover() {
      const members = await db.rows<{ id: string; name: string; email: string }>(
        'SELECT id, name, email FROM members WHERE workspace_id = :workspaceId ORDER BY name',
        { workspaceId },
      )
      const collection = (remoteId: string, name: string, holds: 'task' | 'event') => ({
        remoteId,
        name,
        holds,
        colour: null,
        writable: true,
        count: null,
        parent: null,
        whyNot: null,
        terms: noTerms,
      })
      return {
        name: 'Kept here',
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
    async *delta(collection, token) {
      const rows = await db.rows<OwnRow>(
        `SELECT * FROM own_items WHERE workspace_id = :workspaceId AND seq > :since ORDER BY seq`,
        { workspaceId, since: Number(token ?? 0) },
      )
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
    skew: () => 0,
    restMs: () => null,
  }
}
