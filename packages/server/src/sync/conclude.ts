import type { Connector, RemoteItem, WriteResult } from '@loom/connectors'
import {
  alreadyShows,
  asInPatch,
  confirmWrite,
  fateOf,
  type Item,
  type Returned,
  type Rule,
  sameRaw,
} from '@loom/core'
import { idFor } from '../access/secrets.ts'
import type { Sql } from '../data/database.ts'
import { type MirrorRow, mirrorOf, mirrorRows, remoteItemOf, setPresence } from '../data/mirrors.ts'
import { foldShown, objectOf, shownOf } from './landing.ts'
import { putOwnLayer } from '../data/own-layer.ts'
import { namesakesOf } from './absence.ts'
import { numberChange, withNeighbours } from './changes.ts'
import type { ConnectionRow, Context } from './context.ts'
import { gateOf } from './gate.ts'
import {
  addIntent,
  bodyOf,
  endIntent,
  fieldsOf,
  hasMovedOn,
  type IntentBody,
  type IntentRow,
  type Job,
  opOf,
  rebaseWaiting,
  undoesOf,
} from './intents.ts'
import { type JournalEntry, writeJournal } from './journal.ts'
import type { Lease } from './leases.ts'
import { moveEnds, moveFails, moveOn } from './moves.ts'
import { TIE_COLUMNS, type TieRow, tieOf } from './plan-input.ts'
import { ruleAt, type RuleRow } from './rules.ts'

/** What came of a write: confirmed, refused, or to be planned anew. Each conclusion is one transaction. */

export const CHANGED_MEANWHILE =
  'It was changed at its service in the same moment. What stands there now is shown.'

/** What came of one write. */
export async function conclude(
  ctx: Context,
  conn: ConnectionRow,
  connector: Connector,
  lease: Lease,
  job: Job,
  result: Exclude<WriteResult, { kind: 'retry' }>,
  tookMs: number,
): Promise<void> {
  const { row, body, mirror, remote } = job
  if (result.kind === 'done')
    return confirm(ctx, conn, lease, job, result.item, result.ours && row.tries === 0, tookMs)
  if (result.kind === 'absent') {
    // Gone, unless it was moved: then it is planned anew where it is.
    const namesakes = remote.op === 'delete' && mirror ? await namesakesOf(ctx.db, connector, mirror) : []
    if (remote.op === 'delete' && fateOf(null, namesakes).kind === 'gone')
      return confirm(ctx, conn, lease, job, null, true, tookMs)
    if (body.by === 'maker') return refuse(ctx, row, mirror, body, 'Its calendar or list is no longer there.')
    // Its absence is judged when the service is next read, not here.
    return abandon(ctx, row, mirror)
  }
  if (result.kind === 'refused') {
    await refuse(ctx, row, mirror, body, result.reason)
    return undefined
  }
  // The precondition failed: read again. It may show what an earlier try of ours brought about.
  if (!mirror || remote.op === 'create') return abandon(ctx, row, mirror)
  const object = objectOf(job) ?? mirror
  const read = await connector.read(remote.collection, remote.remoteId)
  if (read.kind === 'found') {
    const held = { ...mirrorOf(object), item: remoteItemOf(object) }
    read.item = (await gateOf(ctx, conn)).judge(read.item, held).item
  }
  if (read.kind === 'problem') await setPresence(ctx.db, [object.id], 'missing')
  if (read.kind !== 'found') return abandon(ctx, row, mirror)
  const item = shownOf(job, read.item)
  if (row.tries > 0 && (await shows(ctx, row, body, item)))
    return confirm(ctx, conn, lease, job, read.item, false, tookMs)
  /** Whether what a person saw still stands, so that their edit may be tried again upon the new revision. */
  const stillSo =
    body.by === 'person' &&
    item !== null &&
    !body.patch.series &&
    !hasMovedOn(body, item) &&
    sameRaw(asInPatch(item, body.before), body.before)
  await ctx.db.transaction(async sql => {
    await lease.check(sql)
    const changed = await foldShown(ctx, sql, conn, object, object.id, read.item, object.collection_id)
    if (body.by === 'rule') {
      await endIntent(sql, row, 'dropped', 'It was changed meanwhile; planned anew.')
      if (row.tries > 0) await perhapsWritten(ctx, sql, job, mirror)
    }
    await numberChange(sql, row.workspace_id, { topics: ['cloth'] }, [mirror.id, ...changed])
  })
  // What somebody has edited meanwhile is neither overwritten nor taken away.
  if (body.by !== 'rule' && !stillSo) await refuse(ctx, row, mirror, body, CHANGED_MEANWHILE)
  ctx.feed.nudge()
  return undefined
}

/** No answer came to an earlier try, and somebody has edited since: whether it took effect cannot be told. */
async function perhapsWritten(
  ctx: Context,
  sql: Sql,
  { row, body }: Pick<Job, 'row' | 'body'>,
  mirror: MirrorRow,
): Promise<void> {
  await writeJournal(sql, {
    ...entryOf(ctx, row, body, mirror),
    outcome: 'unknown',
    reason: 'No answer came, and it was changed before we could look: this may have been written.',
  })
}

/** What the journal says of an intent, whatever came of it. */
function entryOf(
  ctx: Context,
  row: IntentRow,
  body: IntentBody,
  mirror: MirrorRow | null,
): Omit<JournalEntry, 'outcome'> {
  return {
    workspaceId: row.workspace_id,
    at: ctx.now(),
    ruleId: row.rule_id,
    memberId: row.member_id,
    tieId: row.tie_id,
    mirrorId: mirror?.id ?? null,
    collectionId: mirror?.collection_id ?? row.collection_id,
    title: row.title,
    op: opOf(body),
    cause: row.cause,
    fields: fieldsOf(body),
    side: body.by === 'rule' ? body.write.side : null,
    passId: row.pass_id,
  }
}

async function shows(ctx: Context, row: IntentRow, body: IntentBody, item: Item | null): Promise<boolean> {
  // Only a date of a series can be read and not be there.
  if (item === null) return body.by === 'remover' || (body.by === 'rule' && body.write.op === 'delete')
  if (body.by === 'maker' || body.by === 'remover') return false
  if (body.by === 'person') return hasMovedOn(body, item) || sameRaw(asInPatch(item, body.patch), body.patch)
  const rule = await plannedUnder(ctx.db, row)
  return rule !== null && alreadyShows(rule.rule, body.write, item)
}

/** The tie of a rule's write, and the rule in the words of the version it was planned under. */
async function plannedUnder(
  sql: Sql,
  row: IntentRow,
  lock = '',
): Promise<{ tie: TieRow; rule: Rule } | null> {
  const tie = await sql.one<TieRow>(`SELECT ${TIE_COLUMNS} FROM ties t WHERE t.id = :id ${lock}`, {
    id: row.tie_id,
  })
  const rule = await sql.one<RuleRow>('SELECT * FROM rules WHERE id = :id', { id: row.rule_id })
  return tie && rule ? { tie, rule: await ruleAt(sql, rule, tie.rule_version) } : null
}

async function confirm(
  ctx: Context,
  conn: ConnectionRow,
  lease: Lease,
  job: Job,
  item: RemoteItem | null,
  ours: boolean,
  tookMs: number,
): Promise<void> {
  const { row, body, mirror } = job
  await ctx.db.transaction(async sql => {
    await lease.check(sql)
    const known = mirror ?? (item ? ((await mirrorRows(sql, conn.id, [item.remoteId]))[0] ?? null) : null)
    const id = known?.id ?? idFor(`mirror ${conn.id} ${item?.remoteId ?? row.id}`)
    const kept = known
      ? await sql.one<{ original: string }>('SELECT original FROM payloads WHERE mirror_id = :id', { id })
      : null
    const object = job.series ?? known
    const partners = [id]
    if (item)
      partners.push(
        ...(await foldShown(
          ctx,
          sql,
          conn,
          object,
          object?.id ?? id,
          item,
          object?.collection_id ?? row.collection_id,
        )),
      )
    else await setPresence(sql, [id], 'gone')
    const shown = item && shownOf({ ...job, mirror: known }, item)
    if (body.by === 'rule')
      partners.push(
        ...(await confirmTie(sql, row, body, {
          item: shown,
          before: known && remoteItemOf(known),
          mirrorId: id,
          revisionIsOurs: ours,
        })),
      )
    if (body.by === 'person' && body.then) await makeThen(sql, row, body.then)
    if (body.by === 'maker') partners.push(...(await settleMade(sql, row, body, id)))
    if (body.by === 'maker' && item) partners.push(...(await moveOn(sql, row, id, item.remoteId)))
    if (body.by === 'remover') await moveEnds(sql, id)
    if (item && known && !job.series)
      await rebaseWaiting(sql, id, { ...known, item: remoteItemOf(known) }, item)
    await endIntent(sql, row, 'confirmed')
    const undoes = undoesOf(body)
    if (undoes !== null) await undone(sql, undoes, row.tie_id, body, ctx.now())
    await writeJournal(sql, {
      ...entryOf(ctx, row, body, known),
      mirrorId: id,
      outcome: 'done',
      tookMs,
      waitedMs: Date.now() - row.made_at,
      removal: row.removal === 1,
      original: kept?.original ?? null,
    })
    await numberChange(sql, row.workspace_id, { topics: ['cloth', 'journal', 'rules'] }, partners)
  })
  ctx.feed.nudge()
}

async function makeThen(
  sql: Sql,
  row: IntentRow,
  { item, original, binds = [] }: NonNullable<Extract<IntentBody, { by: 'person' }>['then']>,
): Promise<void> {
  await addIntent(sql, {
    workspaceId: row.workspace_id,
    connectionId: row.connection_id,
    collectionId: row.collection_id,
    mirrorId: null,
    ruleId: null,
    memberId: row.member_id,
    tieId: null,
    uid: item.uid,
    body: { by: 'maker', item, original, binds },
    cause: row.cause,
    title: row.title,
    state: 'open',
  })
}

/** What was made by hand is bound to its tasks, which are planned again, and given what we keep on it. */
async function settleMade(
  sql: Sql,
  row: IntentRow,
  body: Extract<IntentBody, { by: 'maker' }>,
  id: string,
): Promise<string[]> {
  if (body.own) await putOwnLayer(sql, row.workspace_id, id, body.own)
  if (!body.binds?.length) return []
  await sql.run('UPDATE ties SET b_mirror = :id, released = NULL WHERE id IN (:binds)', {
    id,
    binds: body.binds,
  })
  const ties = await sql.rows<{ a_mirror: string }>('SELECT a_mirror FROM ties WHERE id IN (:binds)', {
    binds: body.binds,
  })
  return ties.map(t => t.a_mirror)
}

/** What was put back says so; what a rule had made and somebody took away ends its tie. */
async function undone(
  sql: Sql,
  entry: number,
  tieId: string | null,
  body: IntentBody,
  now: number,
): Promise<void> {
  await sql.run('UPDATE journal SET undone_at = :now WHERE id = :entry', { entry, now })
  if (body.by === 'remover' && tieId)
    await sql.run(`UPDATE ties SET released = 'undone' WHERE id = :tieId AND released IS NULL`, { tieId })
}

/** Returns the mirror on the other side, which is planned again with this one. */
async function confirmTie(
  sql: Sql,
  row: IntentRow,
  body: Extract<IntentBody, { by: 'rule' }>,
  returned: Returned,
): Promise<string[]> {
  const under = await plannedUnder(sql, row, 'FOR UPDATE')
  if (!under) return []
  const tie = confirmWrite(under.rule, tieOf(under.tie), body.write, returned)
  await sql.run(
    'UPDATE ties SET a_mirror = :a, b_mirror = :b, base = :base, released = :released WHERE id = :id',
    {
      id: tie.id,
      a: tie.a,
      b: tie.b,
      base: JSON.stringify(tie.base),
      released: tie.released,
    },
  )
  const held = [tie.a, tie.b].filter(id => id !== null)
  return tie.released ? withNeighbours(sql, held) : held
}

/** What it was about has changed; the next plan sees it as it is now. */
async function abandon(ctx: Context, row: IntentRow, mirror: MirrorRow | null): Promise<void> {
  const body = bodyOf(row)
  await ctx.db.transaction(async sql => {
    if (row.tries > 0 && mirror && body.by === 'rule') await perhapsWritten(ctx, sql, { row, body }, mirror)
    await endIntent(sql, row, 'dropped', 'It was changed meanwhile; planned anew.')
    await sql.run('UPDATE connections SET next_look_at = 0 WHERE id = :id', { id: row.connection_id })
    await numberChange(sql, row.workspace_id, { topics: ['cloth'] }, mirror ? [mirror.id] : [])
  })
  ctx.feed.nudge()
}

/** The service will not take it: the item stands as it was, and whoever asked is told why. */
export async function refuse(
  ctx: Context,
  row: IntentRow,
  mirror: MirrorRow | null,
  body: IntentBody,
  reason: string,
): Promise<void> {
  await ctx.db.transaction(async sql => {
    await endIntent(sql, row, 'refused', reason)
    // A counterpart that cannot be made is not asked for again until the task has another date.
    if (body.by === 'rule' && body.write.op === 'create')
      await sql.run(`UPDATE ties SET released = 'refused', base = :base WHERE id = :id`, {
        id: row.tie_id,
        base: JSON.stringify(body.write.expect),
      })
    if (body.by === 'maker' && row.uid) await moveFails(sql, row.uid)
    if (body.by === 'remover' && row.mirror_id) await moveEnds(sql, row.mirror_id)
    if (body.by === 'maker' && body.binds?.length)
      await sql.run(`UPDATE ties SET released = 'refused' WHERE id IN (:binds)`, { binds: body.binds })
    await writeJournal(sql, { ...entryOf(ctx, row, body, mirror), outcome: 'refused', reason })
    const refused = row.member_id ? { refused: { memberId: row.member_id, title: row.title, reason } } : {}
    await numberChange(
      sql,
      row.workspace_id,
      { topics: ['cloth', 'journal', 'rules'], ...refused },
      mirror ? [mirror.id] : [],
    )
  })
  ctx.feed.nudge()
}
