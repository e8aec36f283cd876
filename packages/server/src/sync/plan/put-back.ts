import { withNames } from '../log/named-accounts.ts'
import type { IntentBody } from '../../data/repositories/intents.ts'
import { placeOfCollection } from '../../data/repositories/collection-views.ts'
import { type Decision, type FieldChange, type Mirror, type Undo, undoOf, parseEvent } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { mirrorsById, becomeUnseen } from '../../data/repositories/mirrors.ts'
import type { Context } from '../../context/context.ts'
import { addIntent } from '../log/intents.ts'
import { tieOf } from '../rules/ties.ts'
import { ruleAt } from '../rules/rules.ts'
import { entriesToUndo, type EntryToUndo } from '../../data/repositories/journal.ts'
import { ruleById } from '../../data/repositories/rules.ts'
import { connectionOfCollection } from '../../data/repositories/collections.ts'
import { lockTieMemory, putTieMemory, tieNow } from '../../data/repositories/ties.ts'
import type { Member } from '../../data/repositories/sessions.ts'
import { parsed, json } from '../../data/json.ts'

/** Putting back what rules wrote: looked at first, then written like any edit, with its precondition. */

export interface PutBack {
  entry: number
  title: string
  place: string
  does: 'patch' | 'delete' | 'create' | 'cannot'
  fields: FieldChange[]
  /** Fields that were edited since and stay as they are. */
  skipped: string[]
  reason: string | null
}

interface Planned {
  entry: EntryToUndo
  undo: Undo
  /** The tie that holds the item now; the entry's own where there is no other. */
  tie: string | null
}

/** Entries newest first: what was done last is put back first. */
async function planned(sql: Sql, workspaceId: string, ids: number[]): Promise<Planned[]> {
  if (ids.length === 0) return []
  const entries = await entriesToUndo(sql, { workspaceId, ids })
  return Promise.all(
    entries.map(async entry => ({
      entry,
      undo: await undoFor(sql, entry),
      tie:
        (
          await tieNow(sql, entry.side ?? 'b', {
            tie: entry.tie_id,
            rule: entry.rule_id,
            mirror: entry.mirror_id,
          })
        )?.id ?? entry.tie_id,
    })),
  )
}

async function undoFor(sql: Sql, entry: EntryToUndo): Promise<Undo> {
  const cannot = (reason: string): Undo => ({ kind: 'cannot', reason })
  if (entry.undone_at !== null) return cannot('It was put back already.')
  if (entry.outcome !== 'done' || entry.op === 'override') return cannot('Nothing was written here.')
  if (!entry.rule_id || !entry.side) return cannot('A person did this; undo it where it was done.')
  const row = await ruleById(sql, { id: entry.rule_id })
  if (!row) return cannot('Its rule is no longer there.')
  const tieRow = await tieNow(sql, entry.side, {
    tie: entry.tie_id,
    rule: entry.rule_id,
    mirror: entry.mirror_id,
  })
  const tie = tieRow ? tieOf(tieRow) : null
  const mirrors = await mirrorsById(
    sql,
    [entry.mirror_id, tie?.a, tie?.b].filter(id => typeof id === 'string'),
  )
  const now: Mirror | null = mirrors.get(entry.mirror_id ?? '') ?? null
  const other: Mirror | null = mirrors.get((entry.side === 'a' ? tie?.b : tie?.a) ?? '') ?? null
  const rule = await ruleAt(sql, row, tieRow?.rule_version ?? row.version)
  const written = { op: entry.op, side: entry.side, fields: parsed(entry.fields) }
  const undo = undoOf(
    rule,
    written,
    tie,
    now,
    other?.presence === 'present' ? other : null,
    entry.original !== null || entry.series_id !== null,
  )
  if (entry.series_id !== null) return undo
  if (undo.kind === 'create' && (rule.kinds[entry.side] !== 'event' || !now))
    return cannot(
      'Its service gives every item a new id: make it anew there. What it held stands in this entry.',
    )
  return undo
}

async function placeOf(sql: Sql, collectionId: string): Promise<string> {
  const row = await placeOfCollection(sql, { collectionId })
  return row?.place ?? ''
}

/** What putting these back would do now. */
export async function lookAtPutBack(ctx: Context, workspaceId: string, ids: number[]): Promise<PutBack[]> {
  return ctx.db.snapshot(async sql => {
    const lines = await Promise.all(
      (await planned(sql, workspaceId, ids)).map(async ({ entry, undo }) => ({
        collection: entry.collection_id,
        entry: entry.id,
        title: entry.title,
        place: await placeOf(sql, entry.collection_id),
        does: undo.kind,
        fields: undo.kind === 'patch' ? undo.fields : [],
        skipped: undo.kind === 'patch' ? undo.skipped : [],
        reason: undo.kind === 'cannot' ? undo.reason : null,
      })),
    )
    return (await withNames(sql, lines)).map(({ collection: _, ...line }) => line)
  })
}

/** Queues what puts these entries back. Returns the connections that have something to write. */
export async function putBack(
  ctx: Context,
  member: Member,
  ids: number[],
): Promise<{ queued: number; connections: string[] }> {
  return ctx.db.commit(async sql => {
    const connections = new Set<string>()
    const touched: string[] = []
    let queued = 0
    for (const { entry, undo, tie } of await planned(sql, member.workspaceId, ids)) {
      if (undo.kind === 'cannot') continue
      const body = await bodyFor(sql, entry, undo)
      if (!body) continue
      const mirrorId = undo.kind === 'create' ? entry.series_id : undo.mirror.id
      const collectionId = undo.kind === 'create' ? entry.collection_id : undo.mirror.collectionId
      const home = await connectionOfCollection(sql, { collectionId })
      if (!home) continue
      if (undo.kind === 'patch' && tie) await holdApart(sql, tie, undo.apart)
      const intent = {
        workspaceId: member.workspaceId,
        connectionId: home.connection_id,
        collectionId,
        mirrorId,
        ruleId: null,
        memberId: member.id,
        tieId: tie,
        uid: body.by === 'maker' ? body.item.uid : null,
        body,
        cause: 'undo',
        title: entry.title,
      }
      if (!(await addIntent(sql, { ...intent, state: 'open' })))
        await addIntent(sql, { ...intent, state: 'waiting' })
      queued++
      connections.add(home.connection_id)
      if (mirrorId) touched.push(mirrorId)
    }
    sql.tell(member.workspaceId, { topics: ['journal', 'cloth'] }, touched)
    return { queued, connections: [...connections] }
  })
}

/** The entry's fields, the other way. */
const turned = ({ fields }: EntryToUndo): FieldChange[] =>
  parsed(fields).map(f => ({ ...f, before: f.after, after: f.before }))

async function bodyFor(
  sql: Sql,
  entry: EntryToUndo,
  undo: Exclude<Undo, { kind: 'cannot' }>,
): Promise<IntentBody | null> {
  switch (undo.kind) {
    case 'patch':
      return { by: 'person', patch: undo.patch, before: undo.before, fields: undo.fields, undoes: entry.id }
    case 'delete':
      return {
        by: 'remover',
        revision: undo.mirror.revision,
        fields: turned(entry),
        undoes: entry.id,
      }
    case 'create': {
      if (entry.series_id !== null && entry.occurrence !== null) {
        const series = { do: 'keep' as const, id: entry.occurrence }
        return { by: 'person', patch: { series }, before: {}, fields: turned(entry), undoes: entry.id }
      }
      const original = entry.original
      if (!original) return null
      // A counterpart made meanwhile is released: this event comes back itself and is not a new one.
      await becomeUnseen(sql, { mirrorId: entry.mirror_id })
      return { by: 'maker', item: parseEvent(original), original, undoes: entry.id }
    }
  }
}

async function holdApart(
  sql: Sql,
  tieId: string,
  apart: NonNullable<Decision['tie']>['memory']['apart'],
): Promise<void> {
  const row = await lockTieMemory(sql, {
    tieId,
  })
  if (!row) return
  const memory = parsed(row.memory)
  await putTieMemory(sql, {
    id: tieId,
    memory: json({ ...memory, apart: { ...memory.apart, ...apart } }),
  })
}
