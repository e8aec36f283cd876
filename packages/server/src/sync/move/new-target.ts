import type { Context } from '../../context/context.ts'
import type { Lease } from '../../data/leases.ts'
import { queueCopy } from './moves.ts'
import { newTargetOf, dropArrived, nextToGo } from '../../data/repositories/moves.ts'
import type { RuleRow } from '../../data/repositories/rules.ts'

/** A rule's pass takes to its new target what is written down to go along. No HTTP happens here. */

/** One transaction each, so that others do not wait long. */
const AT_ONCE = 200

/** Returns the connections that have something to write now. */
export async function takeAlong(ctx: Context, rule: RuleRow, lease: Lease): Promise<string[]> {
  const target = await newTargetOf(ctx.db, { id: rule.id })
  if (!target) return []
  // Moves that are complete, and moves that may no longer happen: removed, with guests now, no longer tied.
  await dropArrived(ctx.db, { rule: rule.id, to: target.collectionId })
  let moved = 0
  for (let last = AT_ONCE; last === AT_ONCE; moved += last)
    last = await ctx.db.commit(async sql => {
      await lease.check(sql)
      const rows = await nextToGo(sql, { rule: rule.id, most: AT_ONCE })
      for (const row of rows)
        await queueCopy(sql, {
          workspaceId: rule.workspace_id,
          memberId: row.goer,
          root: row.id,
          parentFrom: null,
          parent: null,
          row,
          target,
        })
      if (rows.length > 0) sql.tell(rule.workspace_id, { topics: ['cloth', 'rules'] })
      return rows.length
    })
  return moved > 0 ? [target.connectionId] : []
}
