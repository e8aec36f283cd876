import { type ClothItem, dayAt, slim, type Viewer } from '@loom/core'
import { LRUCache } from 'lru-cache'
import type { Asking } from '../access/sessions.ts'
import type { Database, Sql } from '../data/database.ts'
import { clothItems } from './cloth.ts'
import { peopleOf, type PersonRow } from './people.ts'
import { type Since, Versions } from './versions.ts'

/**
 * What the Cloth shows stays the same until something changes, and every change has a number. So what was read for
 * one number is given to all who ask until there is another: they differ only by zone and by what each leaves out.
 */

/** Not for ever, should something come about that nobody numbered. */
const KEPT_MS = 30_000

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

/** What was read as of the number of a change; `turn`: the later it was begun to be read, the higher. */
interface Kept<T> {
  seq: number
  turn: number
  at: number
  value: Promise<T>
}
let turns = 0
const readNow = <T>(seq: number, value: Promise<T>): Kept<T> => ({
  seq,
  turn: ++turns,
  at: Date.now(),
  value,
})
const isFresh = (kept: Kept<unknown>, seq: number): boolean =>
  kept.seq >= seq && Date.now() - kept.at < KEPT_MS

/** What those were given who look at a span, and as of which reading. */
interface Given {
  versions: Versions
  turn: number
}
interface Span {
  kept: Kept<ClothItem[]>
  /** By who leaves something out of it; '' for all others. */
  given: Map<string, Given>
}
interface OfDatabase {
  spans: LRUCache<string, Span>
  around: LRUCache<string, Kept<{ json: string; leftOut: ReadonlyMap<string, ReadonlySet<string>> }>>
}
/** Whoever leafs on lets go of the oldest. */
const MOST_SPANS = 200
const databases = new WeakMap<Database, OfDatabase>()
function keptOf(db: Database): OfDatabase {
  const known = databases.get(db)
  if (known) return known
  const max = MOST_SPANS
  const fresh: OfDatabase = { spans: new LRUCache({ max }), around: new LRUCache({ max }) }
  databases.set(db, fresh)
  return fresh
}

export interface Around {
  sources: SourceRow[]
  people: PersonRow[]
}

/**
 * The parts of the answer as JSON texts, as of the number of the last change when it was asked for, or later. Of the
 * items, those that have changed since the version that whoever asks has already.
 */
export async function sharedCloth(
  db: Database,
  member: Pick<Asking, 'workspaceId' | 'id' | 'seq'>,
  from: string,
  days: number,
  viewer: Viewer,
  have?: string,
): Promise<{ items: Since; around: string }> {
  const { workspaceId, seq } = member
  const { spans, around: arounds } = keptOf(db)
  let about = arounds.get(workspaceId)
  if (!about || !isFresh(about, seq)) {
    about = readNow(
      seq,
      db.snapshot(sql => aroundOf(sql, workspaceId)),
    )
    arounds.set(workspaceId, about)
    about.value.catch(() => arounds.delete(workspaceId))
  }
  const key = [workspaceId, from, days, viewer.zone, dayAt(viewer.now, viewer.zone)].join(' ')
  let span = spans.get(key)
  if (!span || !isFresh(span.kept, seq)) {
    const kept = readNow(
      seq,
      db.snapshot(sql => clothItems(sql, workspaceId, from, days, viewer)),
    )
    span = { kept, given: span?.given ?? new Map() }
    spans.set(key, span)
    kept.value.catch(() => spans.delete(key))
  }
  const { kept, given } = span
  const [items, around] = await Promise.all([kept.value, about.value])
  const leftOut = around.leftOut.get(member.id)
  const whose = leftOut ? member.id : ''
  const to = given.get(whose) ?? { versions: new Versions(), turn: 0 }
  given.set(whose, to)
  // An earlier reading that took longer does not take the place of a later one.
  const turn = leftOut ? Math.max(kept.turn, about.turn) : kept.turn
  if (turn > to.turn) {
    const own = (i: ClothItem): ClothItem =>
      leftOut?.has(i.key.split('@')[0] ?? '') ? { ...i, leftOut: true } : i
    to.versions.put(items.map(i => [i.key, textOf(own(i))] as const))
    to.turn = turn
  }
  return { items: to.versions.since(have), around: around.json }
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
