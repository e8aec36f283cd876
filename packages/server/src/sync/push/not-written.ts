import type { IntentBody, IntentRow } from '../../data/repositories/intents.ts'
import { givenUp, type PlannedWrite } from '@loom/core'
import type { MirrorRow } from '../../data/repositories/mirrors.ts'
import type { Sql } from '../../data/database.ts'
import type { Context } from '../../context/context.ts'
import { bodyOf, endIntent, fieldsOf, type Job, opOf } from '../log/intents.ts'
import { type JournalEntry, writeJournal } from '../log/journal.ts'
import { moveEnds, moveFails } from '../move/moves.ts'
import { tieOf } from '../rules/ties.ts'
import { lookNow } from '../../data/repositories/connections.ts'
import { lockTie, putTieState, refuseTies } from '../../data/repositories/ties.ts'
import { json } from '../../data/json.ts'

/** A write that came to nothing: refused, to be planned anew, or not known to have arrived. */

/** An earlier try had no answer and the item was edited since: nobody can tell whether it took effect. */
export async function perhapsWritten(
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
export function entryOf(
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
    privacy: isClassed(body) ? 1 : 0,
    op: opOf(body),
    cause: row.cause,
    fields: fieldsOf(body),
    side: body.by === 'rule' ? body.write.side : null,
    passId: row.pass_id,
  }
}

/** Whether it makes something that its service is to keep private: of that there is no item yet to tell. */
function isClassed(body: IntentBody): boolean {
  const made =
    body.by === 'maker'
      ? body.item
      : body.by === 'rule' && body.write.op === 'create'
        ? body.write.item
        : null
  return made?.kind === 'event' && made.class !== 'public'
}

/** What it was about has changed; the next plan sees it as it is now. */
export async function abandon(ctx: Context, row: IntentRow, mirror: MirrorRow | null): Promise<void> {
  const body = bodyOf(row)
  await ctx.db.commit(async sql => {
    if (row.tries > 0 && mirror && body.by === 'rule') await perhapsWritten(ctx, sql, { row, body }, mirror)
    await endIntent(sql, row, 'dropped', 'It was changed meanwhile; planned anew.')
    await lookNow(sql, { id: row.connection_id })
    sql.tell(row.workspace_id, { topics: ['cloth'] }, mirror ? [mirror.id] : [])
  })
}

async function giveUp(sql: Sql, write: Extract<PlannedWrite, { op: 'create' }>): Promise<void> {
  const tie = await lockTie(sql, {
    id: write.tieId,
  })
  if (!tie) return
  const { base, memory, released } = givenUp(tieOf(tie), write)
  await putTieState(sql, {
    id: tie.id,
    released,
    base: json(base),
    memory: json(memory),
  })
}

/** The service refuses the write: the item stays as it was, and its author is told why. */
export async function refuse(
  ctx: Context,
  row: IntentRow,
  mirror: MirrorRow | null,
  body: IntentBody,
  reason: string,
): Promise<void> {
  await ctx.db.commit(async sql => {
    await endIntent(sql, row, 'refused', reason)
    // A counterpart that cannot be made is not asked for again until the task has another date.
    if (body.by === 'rule' && body.write.op === 'create') await giveUp(sql, body.write)
    if (body.by === 'maker' && row.uid) await moveFails(sql, row.uid)
    if (body.by === 'remover' && row.mirror_id) await moveEnds(sql, row.mirror_id)
    if (body.by === 'maker' && body.binds?.length) await refuseTies(sql, { binds: body.binds })
    await writeJournal(sql, { ...entryOf(ctx, row, body, mirror), outcome: 'refused', reason })
    const refused = row.member_id ? { refused: { memberId: row.member_id, title: row.title, reason } } : {}
    sql.tell(
      row.workspace_id,
      { topics: ['cloth', 'journal', 'rules'], ...refused, exact: true },
      mirror ? [mirror.id] : [],
    )
  })
}
