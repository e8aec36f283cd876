import { type Connector, type RemoteItem, type RemoteWrite, type WriteResult } from '@loom/connectors'
import {
  alreadyShows,
  asInPatch,
  confirmWrite,
  type Event,
  type Item,
  type Mirror,
  observe,
  sameRaw,
  type Task,
} from '@loom/core'
import { idFor } from '../access/secrets.ts'
import type { Sql } from '../data/database.ts'
import {
  mirrorOf,
  type MirrorRow,
  mirrorRows,
  MIRRORS,
  putMirrors,
  remoteItemOf,
  setPresence,
  withOwnLayer,
} from '../data/mirrors.ts'
import { numberChange } from './changes.ts'
import type { ConnectionRow, Context } from './context.ts'
import { type Gate, gateOf } from './gate.ts'
import { backoff } from './health.ts'
import { bodyOf, endIntent, fieldsOf, type IntentBody, type IntentRow, opOf, undoesOf } from './intents.ts'
import { writeJournal } from './journal.ts'
import type { Lease } from './leases.ts'
import { placeOf } from './fold.ts'
import { TIE_COLUMNS, type TieRow, tieOf } from './plan-input.ts'
import { ruleAt, ruleOf, type RuleRow } from './rules.ts'

/** Sends a connection's open intents and confirms them. Each confirmation is one transaction. */

interface Job {
  row: IntentRow
  body: IntentBody
  mirror: MirrorRow | null
  remote: RemoteWrite
}

const COLUMNS = `id, workspace_id, connection_id, collection_id, mirror_id, rule_id, member_id, tie_id, uid, body, cause,
  title, attempts - 1 AS tries, made_at, pass_id, removal`

/** Returns, for each intent that was ended, how long after it was made, ms. */
export async function applyDue(
  ctx: Context,
  conn: ConnectionRow,
  connector: Connector,
  lease: Lease,
): Promise<number[]> {
  const due = await ctx.db.rows<{ id: string }>(
    `SELECT id FROM intents WHERE connection_id = :id AND state = 'open' AND next_try_at <= :now
     ORDER BY member_id IS NULL, made_seq LIMIT 200`,
    { id: conn.id, now: Date.now() },
  )
  if (due.length === 0) return []
  const ids = due.map(d => d.id)
  // Said before it is done: after a crash, an answer of "it is there already" is then known for ours;
  // and from now on nobody adds to these intents.
  await ctx.db.run(`UPDATE intents SET attempts = attempts + 1 WHERE id IN (:ids) AND state = 'open'`, {
    ids,
  })
  const claimed = await ctx.db.rows<IntentRow>(
    `SELECT ${COLUMNS} FROM intents WHERE id IN (:ids) AND state = 'open' ORDER BY member_id IS NULL, made_seq`,
    { ids },
  )
  const ended: number[] = []
  const gate = await gateOf(ctx, conn)
  const jobs: Job[] = []
  for (const row of claimed) {
    const job = await prepare(ctx, row)
    if (job) jobs.push(job)
    else ended.push(Date.now() - row.made_at)
  }
  const { batch } = connector.capabilities
  for (let i = 0; i < jobs.length; i += batch) {
    const part = jobs.slice(i, i + batch)
    const startedAt = Date.now()
    const results = await connector.write(part.map(j => j.remote))
    for (const [k, job] of part.entries()) {
      const result = results[k]
      if (!result) continue
      if (result.kind === 'retry') {
        await later(ctx, job, result)
        throw result.error
      }
      await conclude(ctx, conn, connector, lease, job, through(gate, job, result), Date.now() - startedAt)
      ended.push(Date.now() - job.row.made_at)
    }
  }
  return ended
}

/** What a service returns of a write passes the gate like everything seen of it. */
function through(
  gate: Gate,
  { mirror }: Job,
  result: Exclude<WriteResult, { kind: 'retry' }>,
): Exclude<WriteResult, { kind: 'retry' }> {
  if (result.kind !== 'done' || !result.item) return result
  const held = mirror ? { ...mirrorOf(mirror), item: remoteItemOf(mirror) } : null
  return { ...result, item: gate.judge(result.item, held).item }
}

/** The request for an intent as things stand now; null when it has come to nothing. */
async function prepare(ctx: Context, row: IntentRow): Promise<Job | null> {
  const body = bodyOf(row)
  const mirror = row.mirror_id
    ? await ctx.db.one<MirrorRow>(`${MIRRORS} WHERE m.id = :id`, { id: row.mirror_id })
    : null
  const home = await ctx.db.one<{ remote_id: string }>('SELECT remote_id FROM collections WHERE id = :id', {
    id: mirror?.collection_id ?? row.collection_id,
  })
  const drop = async (reason: string): Promise<null> => {
    await refuse(ctx, row, mirror, body, reason)
    return null
  }
  if (!home) return drop('Its calendar or list is no longer connected.')
  const collection = home.remote_id
  if (body.by === 'rule' && body.write.op === 'create')
    return {
      row,
      body,
      mirror,
      remote: { op: 'create', collection, item: body.write.item, again: row.tries > 0 },
    }
  if (body.by === 'maker') {
    const { item, original } = body
    const remote = {
      op: 'create' as const,
      collection,
      item,
      again: row.tries > 0,
      ...(original && { original }),
    }
    return { row, body, mirror, remote }
  }
  if (!mirror || mirror.presence === 'gone') return drop('It is gone at its service.')
  const at = { collection, remoteId: mirror.remote_id }
  if (body.by === 'person') {
    const item = remoteItemOf(mirror)
    const asSeen = sameRaw(asInPatch(item, body.before), body.before)
    const alreadyOurs = row.tries > 0 && sameRaw(asInPatch(item, body.patch), body.patch)
    if (!asSeen && !alreadyOurs)
      return drop('It was changed at its service in the same moment. What stands there now is shown.')
    return { row, body, mirror, remote: { op: 'patch', ...at, revision: mirror.revision, patch: body.patch } }
  }
  if (body.by === 'remover')
    return { row, body, mirror, remote: { op: 'delete', ...at, revision: mirror.revision } }
  const { write } = body
  if (write.op === 'delete')
    return { row, body, mirror, remote: { op: 'delete', ...at, revision: write.revision } }
  if (write.op !== 'patch') return null
  return { row, body, mirror, remote: { op: 'patch', ...at, revision: write.revision, patch: write.patch } }
}

async function later(ctx: Context, job: Job, result: Extract<WriteResult, { kind: 'retry' }>): Promise<void> {
  const wait = result.error.retryAfterMs ?? backoff(job.row.tries)
  await ctx.db.run('UPDATE intents SET next_try_at = :next, reason = :reason WHERE id = :id', {
    id: job.row.id,
    next: Date.now() + wait,
    reason: result.error.message,
  })
}

async function conclude(
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
    if (remote.op === 'delete') return confirm(ctx, conn, lease, job, null, true, tookMs)
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
  const read = await connector.read(remote.collection, remote.remoteId)
  if (read.kind === 'found') {
    const held = { ...mirrorOf(mirror), item: remoteItemOf(mirror) }
    read.item = (await gateOf(ctx, conn)).judge(read.item, held).item
  }
  if (read.kind === 'problem') await setPresence(ctx.db, [mirror.id], 'missing')
  if (read.kind !== 'found') return abandon(ctx, row, mirror)
  const { item } = read.item
  if (row.tries > 0 && (await shows(ctx, row, body, withOwnLayer(item, mirror))))
    return confirm(ctx, conn, lease, job, read.item, false, tookMs)
  await ctx.db.transaction(async sql => {
    await lease.check(sql)
    await fold(ctx, sql, conn, mirror, mirror.id, read.item, mirror.collection_id)
    const again = body.by === 'person' && sameRaw(asInPatch(item, body.before), body.before)
    if (!again && body.by === 'rule') {
      await endIntent(sql, row, 'dropped', 'It was changed meanwhile; planned anew.')
      if (row.tries > 0) await perhapsWritten(ctx, sql, row, body, mirror)
    }
    await numberChange(sql, row.workspace_id, { topics: ['cloth'] }, [mirror.id])
  })
  if (body.by === 'person' && !sameRaw(asInPatch(item, body.before), body.before))
    await refuse(
      ctx,
      row,
      mirror,
      body,
      'It was changed at its service in the same moment. What stands there now is shown.',
    )
  ctx.feed.nudge()
  return undefined
}

/** No answer came to an earlier try, and somebody has edited since: whether it took effect cannot be told. */
async function perhapsWritten(
  ctx: Context,
  sql: Sql,
  row: IntentRow,
  body: IntentBody,
  mirror: MirrorRow,
): Promise<void> {
  await writeJournal(sql, {
    workspaceId: row.workspace_id,
    at: ctx.now(),
    ruleId: row.rule_id,
    memberId: row.member_id,
    tieId: row.tie_id,
    mirrorId: mirror.id,
    collectionId: mirror.collection_id,
    title: row.title,
    op: opOf(body),
    cause: row.cause,
    fields: fieldsOf(body),
    outcome: 'unknown',
    reason: 'No answer came, and it was changed before we could look: this may have been written.',
    side: body.by === 'rule' ? body.write.side : null,
    passId: row.pass_id,
  })
}

async function shows(ctx: Context, row: IntentRow, body: IntentBody, item: Task | Event): Promise<boolean> {
  if (body.by === 'maker' || body.by === 'remover') return false
  if (body.by === 'person') return sameRaw(asInPatch(item, body.patch), body.patch)
  const ruleRow = await ctx.db.one<RuleRow>('SELECT * FROM rules WHERE id = :id', { id: row.rule_id })
  return ruleRow !== null && alreadyShows(await ruleOf(ctx.db, ruleRow), body.write, item)
}

/** Folds what the service returned into the mirror; returns its id. */
async function fold(
  ctx: Context,
  sql: Sql,
  conn: ConnectionRow,
  before: MirrorRow | null,
  id: string,
  item: RemoteItem,
  collectionId: string,
): Promise<string> {
  const home = await sql.one<{ synced_at: number | null }>(
    'SELECT synced_at FROM collections WHERE id = :collectionId',
    {
      collectionId,
    },
  )
  const previous: Mirror | null = before ? { ...mirrorOf(before), item: remoteItemOf(before) } : null
  const looked = { before: home?.synced_at ?? 0, now: ctx.now(), skew: 0 }
  const result = observe(previous, { ...item, collectionId }, looked, id)
  if (result.kind !== 'same')
    await putMirrors(sql, placeOf(conn), [{ mirror: result.mirror, original: item.original }])
  return id
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
    if (item) await fold(ctx, sql, conn, known, id, item, known?.collection_id ?? row.collection_id)
    else await setPresence(sql, [id], 'gone')
    const partners = [id]
    if (body.by === 'rule') {
      const tied = await confirmTie(sql, row, body, item ? withOwnLayer(item.item, known) : null, id, ours)
      partners.push(...tied)
    }
    await endIntent(sql, row, 'confirmed')
    const undoes = undoesOf(body)
    if (undoes !== null) await undone(sql, undoes, row.tie_id, body, ctx.now())
    await writeJournal(sql, {
      workspaceId: row.workspace_id,
      at: ctx.now(),
      ruleId: row.rule_id,
      memberId: row.member_id,
      tieId: row.tie_id,
      mirrorId: id,
      collectionId: known?.collection_id ?? row.collection_id,
      title: row.title,
      op: opOf(body),
      cause: row.cause,
      fields: fieldsOf(body),
      outcome: 'done',
      tookMs,
      waitedMs: Date.now() - row.made_at,
      side: body.by === 'rule' ? body.write.side : null,
      passId: row.pass_id,
      removal: row.removal === 1,
      original: kept?.original ?? null,
    })
    await numberChange(sql, row.workspace_id, { topics: ['cloth', 'journal', 'rules'] }, partners)
  })
  ctx.feed.nudge()
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
  item: Item | null,
  mirrorId: string,
  ours: boolean,
): Promise<string[]> {
  const tieRow = await sql.one<TieRow>(`SELECT ${TIE_COLUMNS} FROM ties t WHERE t.id = :id FOR UPDATE`, {
    id: row.tie_id,
  })
  const ruleRow = await sql.one<RuleRow>('SELECT * FROM rules WHERE id = :id', { id: row.rule_id })
  if (!tieRow || !ruleRow) return []
  // The base is told in the words of the version the write was planned under.
  const tie = confirmWrite(await ruleAt(sql, ruleRow, tieRow.rule_version), tieOf(tieRow), body.write, {
    item,
    mirrorId,
    revisionIsOurs: ours,
  })
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
  return [tie.a, tie.b].filter(id => id !== null)
}

/** What it was about has changed; the next plan sees it as it is now. */
async function abandon(ctx: Context, row: IntentRow, mirror: MirrorRow | null): Promise<void> {
  const body = bodyOf(row)
  await ctx.db.transaction(async sql => {
    if (row.tries > 0 && mirror && body.by === 'rule') await perhapsWritten(ctx, sql, row, body, mirror)
    await endIntent(sql, row, 'dropped', 'It was changed meanwhile; planned anew.')
    await sql.run('UPDATE connections SET next_look_at = 0 WHERE id = :id', { id: row.connection_id })
    await numberChange(sql, row.workspace_id, { topics: ['cloth'] }, mirror ? [mirror.id] : [])
  })
  ctx.feed.nudge()
}

/** The service will not take it: the item stands as it was, and whoever asked is told why. */
async function refuse(
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
    await writeJournal(sql, {
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
      outcome: 'refused',
      reason,
      side: body.by === 'rule' ? body.write.side : null,
      passId: row.pass_id,
    })
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
