import type { Connector, WriteResult } from '@loom/connectors'
import { asInPatch, sameRaw } from '@loom/core'
import { type MirrorRow, mirrorOf, MIRRORS, remoteItemOf } from '../data/mirrors.ts'
import { CHANGED_MEANWHILE, conclude, refuse } from './conclude.ts'
import type { ConnectionRow, Context } from './context.ts'
import { type Gate, gateOf } from './gate.ts'
import { backoff } from './health.ts'
import { bodyOf, type IntentRow, type Job } from './intents.ts'
import type { Lease } from './leases.ts'

/** Sends a connection's open intents as things stand when each goes out. */

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
    if (!asSeen && !alreadyOurs) return drop(CHANGED_MEANWHILE)
    return { row, body, mirror, remote: { op: 'patch', ...at, revision: mirror.revision, patch: body.patch } }
  }
  if (body.by === 'remover')
    return { row, body, mirror, remote: { op: 'delete', ...at, revision: body.revision } }
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
