import type { IntentBody } from '../data/repositories/intents.ts'
import type { ImportTarget } from '../data/repositories/targets.ts'
import {
  type Comparison,
  compareEntry,
  type FileEntry,
  type FileProblem,
  type Item,
  type ItemPatch,
  reaches,
  seriesKeyOf,
} from '@loom/core'
import type { Sql, Tx } from '../data/database.ts'
import { mirrorOf } from '../data/repositories/mirrors.ts'
import type { Context } from '../context/context.ts'
import { addIntent, type NewIntent } from '../sync/log/intents.ts'
import { toldElsewhere } from '../data/repositories/meetings.ts'
import { heldWithUids, type HeldRow } from '../data/repositories/originals.ts'
import { levelsOf } from '../access/rights.ts'
import type { Member } from '../data/repositories/sessions.ts'

/** What a file brings, compared with what is here; and bringing it in, as edits like any other. */

export interface Compared {
  entry: FileEntry
  comparison: Comparison
  held: { mirrorId: string; connectionId: string; collectionId: string } | null
}

/** One uid may stand in several places; the one where it would go counts before others. */
export async function compareAll(
  sql: Sql,
  who: Member,
  entries: readonly FileEntry[],
  into: readonly string[],
): Promise<Compared[]> {
  const held = new Map<string, HeldRow>()
  const uids = [...new Set(entries.map(e => e.item.uid))]
  for (let i = 0; i < uids.length; i += 500)
    for (const row of await changeableOf(sql, who, uids.slice(i, i + 500))) {
      const known = held.get(row.uid)
      if (!known || (into.includes(row.collection_id) && !into.includes(known.collection_id)))
        held.set(row.uid, row)
    }
  const seen = new Set<string>()
  return entries.map(entry => {
    const row = held.get(entry.item.uid) ?? null
    const twice = seen.has(entry.item.uid)
    seen.add(entry.item.uid)
    const comparison: Comparison = twice
      ? { kind: 'apart', reason: 'Its id stands in the file twice; the first counts.' }
      : judge(entry, row)
    return {
      entry,
      comparison,
      held: row && { mirrorId: row.id, connectionId: row.connection_id, collectionId: row.collection_id },
    }
  })
}

/** What is held under these uids, as far as somebody sees it: what they may only look at is not written to. */
async function changeableOf(sql: Sql, who: Member, uids: string[]): Promise<HeldRow[]> {
  const rows = await heldWithUids(sql, { workspaceId: who.workspaceId, uids })
  const level = await levelsOf(
    sql,
    who,
    rows.map(r => r.id),
  )
  return rows
    .filter(r => reaches(level(r.id), 'everything'))
    .map(r => (level(r.id) === 'change' ? r : { ...r, writable: 0 }))
}

function judge(entry: FileEntry, row: HeldRow | null): Comparison {
  if (!row) return { kind: 'new' }
  const series = row.original?.startsWith('BEGIN:VCALENDAR') ? seriesKeyOf(row.original) : null
  const found = compareEntry(entry, mirrorOf(row).item, series)
  return found.kind === 'changed' && row.writable === 0
    ? { kind: 'apart', reason: 'Where it lives can only be read.' }
    : found
}

const titleOf = (item: Item): string => (item.summary || 'Untitled').slice(0, 500)
export const keyOf = (entry: FileEntry): string => `${entry.item.kind} ${entry.item.uid}`

/** Queues what was chosen. What could not be queued is told with its reason. */
export async function bringIn(
  ctx: Context,
  member: Member,
  compared: readonly Compared[],
  into: { task: ImportTarget | null; event: ImportTarget | null },
): Promise<{ made: number; changed: number; left: FileProblem[]; connections: string[] }> {
  const out = { made: 0, changed: 0, left: [] as FileProblem[] }
  const connections = new Set<string>()
  for (let i = 0; i < compared.length; i += 200) {
    const part = await ctx.db.commit(sql => queue(sql, member, compared.slice(i, i + 200), into))
    out.made += part.made
    out.changed += part.changed
    out.left.push(...part.left)
    for (const id of part.connections) connections.add(id)
  }
  return { ...out, connections: [...connections] }
}

/** One transaction, which may be tried twice: it counts for itself. */
async function queue(
  sql: Tx,
  member: Member,
  compared: readonly Compared[],
  into: { task: ImportTarget | null; event: ImportTarget | null },
): Promise<{ made: number; changed: number; left: FileProblem[]; connections: string[] }> {
  const out = { made: 0, changed: 0, left: [] as FileProblem[], connections: [] as string[] }
  for (const { entry, comparison, held } of compared) {
    const place = comparison.kind === 'new' ? targetFor(entry.item, into) : held
    const intent = place && intentFor(member, entry, comparison, place)
    if (!intent) {
      out.left.push({ where: titleOf(entry.item), reason: 'No list or calendar was chosen for it.' })
      continue
    }
    if (!(await addIntent(sql, intent))) {
      out.left.push({ where: titleOf(entry.item), reason: 'Another change of it is on its way already.' })
      continue
    }
    if (comparison.kind === 'new' && entry.item.kind === 'event' && entry.item.attendees > 0)
      await toldElsewhere(sql, { workspaceId: member.workspaceId, uid: entry.item.uid })
    if (comparison.kind === 'new') out.made++
    else out.changed++
    out.connections.push(intent.connectionId)
  }
  sql.tell(member.workspaceId, { topics: ['connections', 'cloth'] })
  return out
}

interface Place {
  mirrorId: string | null
  connectionId: string
  collectionId: string
}

function targetFor(
  item: Item,
  into: { task: ImportTarget | null; event: ImportTarget | null },
): Place | null {
  const target = into[item.kind]
  return target && { mirrorId: null, connectionId: target.connectionId, collectionId: target.id }
}

function intentFor(
  member: Member,
  { item, original }: FileEntry,
  comparison: Comparison,
  place: Place,
): NewIntent | null {
  const body = bodyFor(item, original, comparison)
  return (
    body && {
      ...place,
      workspaceId: member.workspaceId,
      ruleId: null,
      memberId: member.id,
      tieId: null,
      uid: body.by === 'maker' ? item.uid : null,
      body,
      cause: 'person-file',
      title: titleOf(item),
      state: 'open',
    }
  )
}

function bodyFor(item: Item, original: string | null, comparison: Comparison): IntentBody | null {
  if (comparison.kind === 'new') return { by: 'maker', item, original }
  if (comparison.kind !== 'changed') return null
  const { patch, before } = comparison
  return { by: 'person', patch: patch as ItemPatch, before: before as ItemPatch }
}
