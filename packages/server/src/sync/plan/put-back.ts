import { type Decision, type FieldChange, type Mirror, type Side, type Undo, undoOf } from '@loom/core'
import { parseEvent } from '@loom/core'
import type { Member } from '../../access/sessions.ts'
import type { Sql } from '../../data/database.ts'
import { mirrorsById } from '../../data/mirrors.ts'
import type { Context } from '../../context/context.ts'
import { addIntent, type IntentBody } from '../log/intents.ts'
import { TIE_COLUMNS, type TieRow, tieOf } from '../rules/ties.ts'
import { ruleAt, type RuleRow } from '../rules/rules.ts'

/** Putting back what rules wrote: looked at first, then written like any edit, with its precondition. */

interface EntryToUndo {
  id: number
  rule_id: string | null
  tie_id: string | null
  mirror_id: string | null
  collection_id: string
  title: string
  op: 'create' | 'patch' | 'delete' | 'override'
  side: Side | null
  fields: string
  outcome: string
  undone_at: number | null
  original: string | null
  /** Of one date of a series: the series, and which of its dates. */
  series_id: string | null
  occurrence: string | null
}

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
  const entries = await sql.rows<EntryToUndo>(
    `SELECT j.id, j.rule_id, j.tie_id, j.mirror_id, j.collection_id, j.title, j.op, j.side, j.fields, j.outcome,
       j.undone_at, k.original, m.series_id, m.occurrence
     FROM journal j LEFT JOIN kept_originals k ON k.journal_id = j.id LEFT JOIN mirrors m ON m.id = j.mirror_id
     WHERE j.workspace_id = :workspaceId AND j.id IN (:ids) ORDER BY j.id DESC`,
    { workspaceId, ids },
  )
  return Promise.all(
    entries.map(async entry => ({
      entry,
      undo: await undoFor(sql, entry),
      tie: (await tieNow(sql, entry))?.id ?? entry.tie_id,
    })),
  )
}

/** Where the pair was tied anew since, it is that tie which holds what is put back apart. */
async function tieNow(sql: Sql, entry: EntryToUndo): Promise<TieRow | null> {
  const mirror = entry.side === 'a' ? 'a_mirror' : 'b_mirror'
  return sql.one<TieRow>(
    `SELECT ${TIE_COLUMNS} FROM ties t WHERE t.id = :tie
       OR (t.rule_id = :rule AND t.${mirror} = :mirror AND t.released IS NULL)
     ORDER BY t.released IS NULL DESC LIMIT 1`,
    { tie: entry.tie_id, rule: entry.rule_id, mirror: entry.mirror_id },
  )
}

async function undoFor(sql: Sql, entry: EntryToUndo): Promise<Undo> {
  const cannot = (reason: string): Undo => ({ kind: 'cannot', reason })
  if (entry.undone_at !== null) return cannot('It was put back already.')
  if (entry.outcome !== 'done' || entry.op === 'override') return cannot('Nothing was written here.')
  if (!entry.rule_id || !entry.side) return cannot('A person did this; undo it where it was done.')
  const row = await sql.one<RuleRow>('SELECT * FROM rules WHERE id = :id', { id: entry.rule_id })
  if (!row) return cannot('Its rule is no longer there.')
  const tieRow = await tieNow(sql, entry)
  const tie = tieRow ? tieOf(tieRow) : null
  const mirrors = await mirrorsById(
    sql,
    [entry.mirror_id, tie?.a, tie?.b].filter(id => typeof id === 'string'),
  )
  const now: Mirror | null = mirrors.get(entry.mirror_id ?? '') ?? null
  const other: Mirror | null = mirrors.get((entry.side === 'a' ? tie?.b : tie?.a) ?? '') ?? null
  const rule = await ruleAt(sql, row, tieRow?.rule_version ?? row.version)
  const written = { op: entry.op, side: entry.side, fields: JSON.parse(entry.fields) as FieldChange[] }
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
  const row = await sql.one<{ place: string }>(
    `SELECT CONCAT(n.name, ' · ', c.name) AS place FROM collections c JOIN connections n ON n.id = c.connection_id
     WHERE c.id = :collectionId`,
    { collectionId },
  )
  return row?.place ?? ''
}

/** What putting these back would do now. */
export async function lookAtPutBack(ctx: Context, workspaceId: string, ids: number[]): Promise<PutBack[]> {
  return ctx.db.snapshot(async sql =>
    Promise.all(
      (await planned(sql, workspaceId, ids)).map(async ({ entry, undo }) => ({
        entry: entry.id,
        title: entry.title,
        place: await placeOf(sql, entry.collection_id),
        does: undo.kind,
        fields: undo.kind === 'patch' ? undo.fields : [],
        skipped: undo.kind === 'patch' ? undo.skipped : [],
        reason: undo.kind === 'cannot' ? undo.reason : null,
      })),
    ),
  )
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
      const home = await sql.one<{ connection_id: string }>(
        'SELECT connection_id FROM collections WHERE id = :collectionId',
        { collectionId },
      )
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
  (JSON.parse(fields) as FieldChange[]).map(f => ({ ...f, before: f.after, after: f.before }))

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
      // What was made of it meanwhile is released: it is this very event that comes back, and nobody's new one.
      await sql.run('UPDATE mirrors SET first_seen_at = 0 WHERE id = :id', { id: entry.mirror_id })
      return { by: 'maker', item: parseEvent(original), original, undoes: entry.id }
    }
  }
}

async function holdApart(
  sql: Sql,
  tieId: string,
  apart: NonNullable<Decision['tie']>['memory']['apart'],
): Promise<void> {
  const row = await sql.one<{ memory: string }>('SELECT memory FROM ties WHERE id = :tieId FOR UPDATE', {
    tieId,
  })
  if (!row) return
  const memory = JSON.parse(row.memory) as NonNullable<Decision['tie']>['memory']
  await sql.run('UPDATE ties SET memory = :memory WHERE id = :tieId', {
    tieId,
    memory: JSON.stringify({ ...memory, apart: { ...memory.apart, ...apart } }),
  })
}
