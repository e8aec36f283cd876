import { type ClothItem, dayAt, slim, type Viewer } from '@loom/core'
import type { Asking } from '../access/sessions.ts'
import type { Database, Sql } from '../data/database.ts'
import { clothItems } from './cloth.ts'
import { peopleOf, type PersonRow } from './people.ts'

/**
 * What the Cloth shows stays the same until something changes, and every change has a number. So what was read for
 * one number is given to all who ask until there is another: they differ only by zone and by what each leaves out.
 */

/** Not for ever, should something come about that nobody numbered. */
const KEPT_MS = 30_000
/** Spans kept for one workspace; whoever leafs on lets go of the oldest. */
const MOST_KEPT = 24

export interface SourceRow {
  id: string
  name: string
  dye: string
  holds: 'task' | 'event'
  writable: number
  service: string
  connection: string
  own: number
  owner: string | null
}

/** Most items are the same objects as when they were last sent. */
const texts = new WeakMap<ClothItem, string>()
function textOf(item: ClothItem): string {
  const known = texts.get(item)
  if (known !== undefined) return known
  const text = JSON.stringify(slim(item))
  texts.set(item, text)
  return text
}
const jsonOf = (items: readonly ClothItem[]): string => `[${items.map(textOf).join(',')}]`

interface Kept<T> {
  at: number
  value: Promise<T>
}
interface OfWorkspace {
  seq: number
  spans: Map<string, Kept<{ items: ClothItem[]; json: string }>>
  around: Kept<{ json: string; leftOut: ReadonlyMap<string, ReadonlySet<string>> }> | null
}
const workspaces = new WeakMap<Database, Map<string, OfWorkspace>>()

/** What is kept for this number; for one that is older than what is kept, nothing lasting. */
function keptFor(db: Database, workspaceId: string, seq: number): OfWorkspace {
  const all = workspaces.get(db) ?? new Map<string, OfWorkspace>()
  workspaces.set(db, all)
  const known = all.get(workspaceId)
  if (known?.seq === seq) return known
  const fresh: OfWorkspace = { seq, spans: new Map(), around: null }
  if (!known || known.seq < seq) all.set(workspaceId, fresh)
  return fresh
}

export interface Around {
  sources: SourceRow[]
  people: PersonRow[]
}

/** The parts of the answer as JSON texts, as of the number of the last change when it was asked for, or later. */
export async function sharedCloth(
  db: Database,
  member: Pick<Asking, 'workspaceId' | 'id' | 'seq'>,
  from: string,
  days: number,
  viewer: Viewer,
): Promise<{ items: string; around: string }> {
  const { workspaceId } = member
  const kept = keptFor(db, workspaceId, member.seq)
  const key = [from, days, viewer.zone, dayAt(viewer.now, viewer.zone)].join(' ')
  const isFresh = (k: Kept<unknown> | null | undefined): boolean => !!k && Date.now() - k.at < KEPT_MS
  let span = kept.spans.get(key)
  if (!span || !isFresh(span)) {
    const value = db
      .snapshot(sql => clothItems(sql, workspaceId, from, days, viewer))
      .then(items => ({ items, json: jsonOf(items) }))
    span = { at: Date.now(), value }
    kept.spans.delete(key)
    kept.spans.set(key, span)
    const [oldest] = kept.spans.keys()
    if (oldest !== undefined && kept.spans.size > MOST_KEPT) kept.spans.delete(oldest)
    value.catch(() => kept.spans.delete(key))
  }
  if (!kept.around || !isFresh(kept.around)) {
    const value = db.snapshot(sql => aroundOf(sql, workspaceId))
    kept.around = { at: Date.now(), value }
    value.catch(() => (kept.around = null))
  }
  const [{ items, json }, around] = await Promise.all([span.value, kept.around.value])
  const leftOut = around.leftOut.get(member.id)
  if (!leftOut) return { items: json, around: around.json }
  const own = items.map(i => (leftOut.has(i.key.split('@')[0] ?? '') ? { ...i, leftOut: true } : i))
  return { items: jsonOf(own), around: around.json }
}

/** The sources and people of a workspace, and what each of these leaves out of their own plan. */
async function aroundOf(sql: Sql, workspaceId: string) {
  const [sources, out, people] = await Promise.all([
    sql.rows<SourceRow>(
      `SELECT k.id, k.name, k.dye, k.holds, k.writable, n.name AS service, n.id AS connection, n.kind = 'own' AS own,
         m.name AS owner
       FROM collections k JOIN connections n ON n.id = k.connection_id LEFT JOIN members m ON m.id = n.owner_id
       WHERE k.workspace_id = :workspaceId AND k.takes_part = 1 ORDER BY n.kind = 'own', n.name, k.holds DESC, k.name`,
      { workspaceId },
    ),
    sql.rows<{ member_id: string; mirror_id: string }>(
      'SELECT member_id, mirror_id FROM left_out WHERE workspace_id = :workspaceId',
      { workspaceId },
    ),
    peopleOf(sql, workspaceId),
  ])
  const around: Around = { sources, people }
  const leftOut = new Map<string, Set<string>>()
  for (const { member_id: of, mirror_id: id } of out) leftOut.set(of, (leftOut.get(of) ?? new Set()).add(id))
  return { json: JSON.stringify(around), leftOut }
}
