import {
  type IntentBody,
  claimIntents,
  claimedIntents,
  dueIntents,
  tryLater,
  type IntentRow,
  type Due,
} from '../../data/repositories/intents.ts'
import type { Connector, RemoteWrite, WriteResult } from '@loom/connectors'
import { asInPatch, type ItemPatch, sameValue } from '@loom/core'
import { chunks } from '../../data/chunks.ts'
import { type MirrorRow, mirrorOf, remoteItemOf, mirrorRow } from '../../data/repositories/mirrors.ts'
import { markUnconfirmed } from './unconfirmed.ts'
import { CHANGED_MEANWHILE, conclude, type Outcome } from './conclude.ts'
import type { Context } from '../../context/context.ts'
import { type ScopeFilter, scopeFilterOf } from '../pull/scope-filter.ts'
import { harmInWords, harmsOnlyItself } from '../../data/harm.ts'
import { backoff } from '../log/health.ts'
import { bodyOf, hasMovedOn, type Job, roundIn } from '../log/intents.ts'
import { objectOf } from './write-result.ts'
import type { Sending } from './sending.ts'
import { refuse } from './not-written.ts'
import { remoteIdOfCollection } from '../../data/repositories/collections.ts'

/** Sends a connection's open intents as things stand when each goes out. */

/**
 * Said before it is done, and only of what goes out next: after a crash, an answer of "it is there already" is then
 * known for ours; and from now on nobody adds to these intents.
 */
async function claim(ctx: Context, due: readonly Due[]): Promise<IntentRow[]> {
  const ids = due.map(d => d.id)
  await claimIntents(ctx.db, { ids, now: Date.now() })
  const rows = await claimedIntents(ctx.db, { ids })
  const before = new Map(due.map(d => [d.id, d.tried_at]))
  return rows.map(row => ({ ...row, tries: row.attempts - 1, tried_before: before.get(row.id) ?? null }))
}

/** Returns, for each intent that was ended, how long after it was made, ms. */
export async function applyDue(sending: Sending): Promise<number[]> {
  const { ctx, conn, connector } = sending
  const [due, scopeFilter] = await Promise.all([
    dueIntents(ctx.db, { id: conn.id, now: Date.now() }),
    scopeFilterOf(ctx, conn),
  ])
  if (due.length === 0) return []
  const ended: number[] = []
  /** Null once it has come to nothing, or has to be planned anew. */
  const ready = async (row: IntentRow): Promise<Job | null> => {
    const job = await prepare(ctx, row).catch((error: unknown) => setAside(row, error))
    if (job && !job.stale && !(await wasDoneMeanwhile(connector, job))) return job
    if (job) await conclude(sending, job, { kind: 'conflict' }, 0)
    ended.push(Date.now() - row.made_at)
    return null
  }
  /** A write that cannot be sent, or whose outcome cannot be stored, is refused, so that the others go on. */
  const setAside = async (row: IntentRow, error: unknown): Promise<null> => {
    if (!harmsOnlyItself(error)) throw error
    ctx.log.error({ err: error, connectionId: conn.id, intent: row.id }, 'a write was set aside')
    await refuse(ctx, row, null, bodyOf(row), harmInWords(error))
    return null
  }
  const send = async (jobs: Job[]): Promise<void> => {
    const startedAt = Date.now()
    let results: WriteResult[]
    try {
      results = await connector.write(jobs.map(j => j.remote))
    } catch (error) {
      const [only, ...more] = jobs
      if (!only || !harmsOnlyItself(error)) throw error
      if (more.length === 0) await setAside(only.row, error)
      else for (const job of jobs) await send([job])
      return
    }
    for (const [k, job] of jobs.entries()) {
      const result = results[k]
      if (!result) continue
      if (result.kind === 'retry') {
        await later(ctx, job, result)
        throw result.error
      }
      if (result.kind === 'unsure') {
        await markUnconfirmed(ctx, job, result)
        continue
      }
      const outcome = through(scopeFilter, job, result)
      await conclude(sending, job, outcome, Date.now() - startedAt).catch((error: unknown) =>
        setAside(job.row, error),
      )
      ended.push(Date.now() - job.row.made_at)
    }
  }
  const go = async (some: readonly Due[]): Promise<void> => {
    const jobs: Job[] = []
    for (const row of await claim(ctx, some)) {
      const job = await ready(row)
      if (job) jobs.push(job)
    }
    if (jobs.length > 0) await send(jobs)
  }
  for (const some of chunks(
    due.filter(d => d.series_id === null),
    connector.capabilities.batch,
  ))
    await go(some)
  // Dates of one series stand in one object: each write goes out upon what the one before it left.
  for (const date of due) if (date.series_id !== null) await go([date])
  return ended
}

/**
 * An earlier try to complete a round of a repeating task had no answer. Where it took effect all the same, the
 * service is in the next round by now, and trying again would complete that one too.
 */
async function wasDoneMeanwhile(connector: Connector, { row, body, mirror, remote }: Job): Promise<boolean> {
  if (row.tries === 0 || roundIn(body) === null || !mirror) return false
  const read = await connector.read(remote.collection, mirror.remote_id)
  return read.kind === 'found' && hasMovedOn(body, read.item.item)
}

/** Before it was written down when a try went out, it was at least this long ago. */
const triedAgo = (row: IntentRow): number | null =>
  row.tries === 0 ? null : Date.now() - (row.tried_before ?? row.made_at)

/** What a service returns of a write passes the scope filter like everything seen of it. */
function through(scopeFilter: ScopeFilter, job: Job, result: Outcome): Outcome {
  if (result.kind !== 'done' || !result.item) return result
  const object = objectOf(job)
  const held = object ? { ...mirrorOf(object), item: remoteItemOf(object) } : null
  return { ...result, item: scopeFilter.judge(result.item, held).item }
}

/** The request for an intent as things stand now; null when it has come to nothing. */
async function prepare(ctx: Context, row: IntentRow): Promise<Job | null> {
  const body = bodyOf(row)
  const mirror = row.mirror_id ? await mirrorRow(ctx.db, { id: row.mirror_id }) : null
  const home = await remoteIdOfCollection(ctx.db, {
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
      series: null,
      remote: { op: 'create', collection, item: body.write.item, triedAgoMs: triedAgo(row) },
    }
  if (body.by === 'maker') {
    const { item, original } = body
    const remote = {
      op: 'create' as const,
      collection,
      item,
      triedAgoMs: triedAgo(row),
      ...(original && { original }),
    }
    return { row, body, mirror, series: null, remote }
  }
  if (!mirror || mirror.presence === 'gone') return drop('It is gone at its service.')
  const write = writeOf(body, mirror)
  if (!write) return null
  if (body.by === 'person') {
    const item = remoteItemOf(mirror)
    const asSeen = !hasMovedOn(body, item) && sameValue(asInPatch(item, body.before), body.before)
    const shows = hasMovedOn(body, item) || sameValue(asInPatch(item, body.patch), body.patch)
    const alreadyOurs = row.tries > 0 && shows
    if (!asSeen && !alreadyOurs) return drop(CHANGED_MEANWHILE)
  }
  if (mirror.series_id === null) {
    const remote: RemoteWrite = { collection, remoteId: mirror.remote_id, ...write }
    return { row, body, mirror, series: null, remote }
  }
  const series = await mirrorRow(ctx.db, { id: mirror.series_id })
  if (!series || !mirror.occurrence) return drop('Its series is gone at its service.')
  const id = mirror.occurrence
  const patch =
    write.op === 'delete'
      ? { series: { do: 'drop' as const, id } }
      : { series: { do: 'change' as const, id, change: write.patch } }
  // Its series may have changed for another of its dates; that this one did not is seen here.
  const stale = write.revision !== mirror.revision
  const { remote_id: remoteId, revision } = series
  return { row, body, mirror, series, stale, remote: { op: 'patch', collection, remoteId, revision, patch } }
}

/** The change of an existing item, and the revision it goes by. */
function writeOf(
  body: Exclude<IntentBody, { by: 'maker' }>,
  mirror: MirrorRow,
): { op: 'patch'; revision: string; patch: ItemPatch } | { op: 'delete'; revision: string } | null {
  if (body.by === 'person') return { op: 'patch', revision: mirror.revision, patch: body.patch }
  if (body.by === 'remover') return { op: 'delete', revision: body.revision }
  const { write } = body
  if (write.op === 'delete') return { op: 'delete', revision: write.revision }
  return write.op === 'patch' ? { op: 'patch', revision: write.revision, patch: write.patch } : null
}

async function later(ctx: Context, job: Job, result: Extract<WriteResult, { kind: 'retry' }>): Promise<void> {
  const wait = result.error.retryAfterMs ?? backoff(job.row.tries)
  await tryLater(ctx.db, {
    id: job.row.id,
    next: Date.now() + wait,
    reason: result.error.message,
  })
}
