import type { IntentBody, IntentRow } from '../../data/repositories/intents.ts'
import type { WriteResult } from '@loom/connectors'
import { alreadyShows, asInPatch, fateOf, type Item, sameValue } from '@loom/core'
import { mirrorOf, remoteItemOf, setPresence } from '../../data/repositories/mirrors.ts'
import { namesakesOf } from '../pull/absence.ts'
import { confirm, plannedUnder } from './confirm-write.ts'
import type { Context } from '../../context/context.ts'
import { scopeFilterOf } from '../pull/scope-filter.ts'
import { endIntent, hasMovedOn, type Job } from '../log/intents.ts'
import { applyShown, objectOf, shownOf } from './write-result.ts'
import type { Sending } from './sending.ts'
import { abandon, perhapsWritten, refuse } from './not-written.ts'

/** What came of a write: confirmed, refused, or to be planned anew. Each conclusion is one transaction. */

export const CHANGED_MEANWHILE =
  'It was changed at its service in the same moment. What stands there now is shown.'

/** What a service has said of a write. */
export type Outcome = Exclude<WriteResult, { kind: 'retry' | 'unsure' }>

/** What came of one write. */
export async function conclude(sending: Sending, job: Job, result: Outcome, tookMs: number): Promise<void> {
  const { ctx, conn, connector, lease } = sending
  const { row, body, mirror, remote } = job
  if (result.kind === 'done')
    return confirm(sending, job, { item: result.item, ours: result.ours && row.tries === 0, tookMs })
  if (result.kind === 'absent') {
    // Gone, unless it was moved: then it is planned anew where it is.
    const namesakes = remote.op === 'delete' && mirror ? await namesakesOf(ctx.db, connector, mirror) : []
    if (remote.op === 'delete' && fateOf(null, namesakes).kind === 'gone')
      return confirm(sending, job, { item: null, ours: true, tookMs })
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
    read.item = (await scopeFilterOf(ctx, conn)).judge(read.item, held).item
  }
  if (read.kind === 'problem') await setPresence(ctx.db, [object.id], 'missing')
  if (read.kind !== 'found') return abandon(ctx, row, mirror)
  const item = shownOf(job, read.item)
  if (row.tries > 0 && (await shows(ctx, row, body, item)))
    return confirm(sending, job, { item: read.item, ours: false, tookMs })
  /** Whether what a person saw still stands, so that their edit may be tried again upon the new revision. */
  const stillSo =
    body.by === 'person' &&
    item !== null &&
    !body.patch.series &&
    !hasMovedOn(body, item) &&
    sameValue(asInPatch(item, body.before), body.before)
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    const changed = await applyShown(
      ctx,
      sql,
      { conn, before: object, id: object.id, collectionId: object.collection_id },
      read.item,
    )
    if (body.by === 'rule') {
      await endIntent(sql, row, 'dropped', 'It was changed meanwhile; planned anew.')
      if (row.tries > 0) await perhapsWritten(ctx, sql, job, mirror)
    }
    sql.tell(row.workspace_id, { topics: ['cloth'], exact: true }, [mirror.id, ...changed])
  })
  // Edits made meanwhile are neither overwritten nor removed.
  if (body.by !== 'rule' && !stillSo) await refuse(ctx, row, mirror, body, CHANGED_MEANWHILE)
  return undefined
}

async function shows(ctx: Context, row: IntentRow, body: IntentBody, item: Item | null): Promise<boolean> {
  // Only a date of a series can be read and not be there.
  if (item === null) return body.by === 'remover' || (body.by === 'rule' && body.write.op === 'delete')
  if (body.by === 'maker' || body.by === 'remover') return false
  if (body.by === 'person')
    return hasMovedOn(body, item) || sameValue(asInPatch(item, body.patch), body.patch)
  const rule = await plannedUnder(ctx.db, row)
  return rule !== null && alreadyShows(rule.rule, body.write, item)
}
