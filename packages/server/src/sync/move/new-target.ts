import { type MirrorRow, MIRRORS } from '../../data/mirrors.ts'
import type { Context } from '../../context/context.ts'
import { MAY_GO } from './going-along.ts'
import type { Lease } from '../../data/leases.ts'
import { queueCopy } from './moves.ts'
import type { RuleRow } from '../rules/rules.ts'

/** A rule's pass takes to its new target what is written down to go along. No HTTP happens here. */

/** In one transaction each: whoever else has something to do waits for no more. */
const AT_ONCE = 200

/** Not what is on its way already or being written to in this moment, and no part of what goes along as a whole. */
const HAS_ITS_TURN = `${MIRRORS.replace('SELECT', 'SELECT g.member_id AS goer,')}
  JOIN going_along g ON g.mirror_id = m.id
  WHERE g.rule_id = :rule AND m.presence = 'present'
    AND NOT EXISTS (SELECT 1 FROM moves v WHERE v.from_mirror = m.id)
    AND NOT EXISTS (SELECT 1 FROM intents i WHERE i.mirror_id = m.id AND i.state IN ('open', 'waiting'))
    AND NOT (JSON_VALUE(m.item, '$.parent') IS NOT NULL AND EXISTS (
      SELECT 1 FROM going_along w JOIN mirrors whole ON whole.id = w.mirror_id WHERE w.rule_id = g.rule_id
        AND whole.collection_id = m.collection_id AND JSON_VALUE(m.item, '$.parent') IN (whole.uid, whole.remote_id)))
  ORDER BY m.id`

/** Returns the connections that have something to write now. */
export async function takeAlong(ctx: Context, rule: RuleRow, lease: Lease): Promise<string[]> {
  const target = await ctx.db.one<{ collectionId: string; connectionId: string }>(
    `SELECT k.id AS collectionId, k.connection_id AS connectionId FROM going_along g
       JOIN rules r ON r.id = g.rule_id JOIN collections k ON k.id = r.b_collection
     WHERE g.rule_id = :id LIMIT 1`,
    { id: rule.id },
  )
  if (!target) return []
  // What has arrived, and what may not go any more: it was removed, has guests now, is no longer tied.
  await ctx.db.run(
    `DELETE g FROM going_along g JOIN mirrors m ON m.id = g.mirror_id
     WHERE g.rule_id = :rule AND (m.collection_id = :to OR m.presence = 'gone' OR NOT (${MAY_GO}))`,
    { rule: rule.id, to: target.collectionId },
  )
  let moved = 0
  for (let last = AT_ONCE; last === AT_ONCE; moved += last)
    last = await ctx.db.commit(async sql => {
      await lease.check(sql)
      const rows = await sql.rows<MirrorRow & { goer: string | null }>(`${HAS_ITS_TURN} LIMIT ${AT_ONCE}`, {
        rule: rule.id,
      })
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
