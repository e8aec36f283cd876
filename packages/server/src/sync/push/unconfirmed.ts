import { levelsOf } from '../../access/rights.ts'
import {
  lockUnconfirmed,
  setUnconfirmed,
  unconfirmedIntents,
  unconfirmedOverview,
  type UnconfirmedView,
  makeAgain,
  tryNow,
} from '../../data/repositories/unconfirmed.ts'
import type { WriteResult } from '@loom/connectors'
import { type Asker, sightIn } from '../../access/sight.ts'
import type { Sql } from '../../data/database.ts'
import { rulesToChange } from '../rules/rule-rights.ts'
import type { Context } from '../../context/context.ts'
import { bodyOf, type Job } from '../log/intents.ts'
import { refuse } from './not-written.ts'

/**
 * Creations whose earlier try may have taken effect. None is sent twice on a guess: the result is looked for again
 * at growing intervals, and a person is asked if looking cannot tell.
 */

const FIRST_MS = 15_000
const MOST_MS = 3_600_000

export async function markUnconfirmed(
  ctx: Context,
  { row }: Job,
  { reason, againMs }: Extract<WriteResult, { kind: 'unsure' }>,
): Promise<void> {
  const next = Date.now() + (againMs ?? Math.min(MOST_MS, FIRST_MS * 2 ** Math.min(row.tries, 10)))
  await ctx.db.commit(async sql => {
    const was = await lockUnconfirmed(sql, { id: row.id })
    // Somebody has said meanwhile what to do.
    if (!was) return
    const since = againMs === null ? (was.asks_since ?? ctx.now()) : null
    // It did not go out this time.
    await setUnconfirmed(sql, { id: row.id, next, reason, tried: row.tried_before, since })
    if (since !== was.asks_since) sql.tell(row.workspace_id, { topics: ['rules'] })
  })
}

/** Those that are somebody's to decide: of a rule that they may change, or made by themselves. */
export async function unconfirmedFor(
  sql: Sql,
  who: Asker & { workspaceId: string },
): Promise<UnconfirmedView[]> {
  const all = await unconfirmedOverview(sql, { workspaceId: who.workspaceId })
  if (all.length === 0) return []
  const [mine, level, sight] = await Promise.all([
    rulesToChange(sql, who),
    levelsOf(
      sql,
      who,
      all.flatMap(u => [u.a, u.b]).filter(id => id !== null),
    ),
    sightIn(sql, who),
  ])
  return all
    .filter(({ ruleId, collectionId, memberId, a, b }) =>
      ruleId === null
        ? memberId === who.id && sight.sees(collectionId, 'change')
        : mine.has(ruleId) && [a, b].every(id => id === null || level(id) === 'change'),
    )
    .map(({ collectionId: _, memberId: __, a: ___, b: ____, ...view }) => view)
}

export const countUnconfirmed = async (sql: Sql, who: Asker & { workspaceId: string }): Promise<number> =>
  (await unconfirmedFor(sql, who)).length

/** A person's answer about such a creation. `look`: search again. */
export type Word = 'look' | 'make' | 'leave'

/** Returns the connections that have something to do now. */
export async function answerUnconfirmed(
  ctx: Context,
  who: Asker & { workspaceId: string },
  asked: readonly string[],
  word: Word,
): Promise<string[]> {
  const { workspaceId } = who
  const mine = new Set((await unconfirmedFor(ctx.db, who)).map(u => u.id))
  const ids = asked.filter(id => mine.has(id))
  if (ids.length === 0) return []
  const rows = await unconfirmedIntents(ctx.db, { ids, workspaceId })
  for (const row of rows)
    if (word === 'leave')
      await refuse(
        ctx,
        row,
        null,
        bodyOf(row),
        'It could not be told whether it was made. It is left as it is.',
      )
    else
      await ctx.db.commit(async sql => {
        if (word === 'make') await makeAgain(sql, { id: row.id })
        else await tryNow(sql, { id: row.id })
        sql.tell(workspaceId, { topics: ['rules'] })
      })
  return [...new Set(rows.map(r => r.connection_id))]
}
