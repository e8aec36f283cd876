import type { Sql } from '../data/database.ts'
import { type MirrorRow, MIRRORS } from '../data/mirrors.ts'
import { numberChange } from './changes.ts'
import type { Context } from './context.ts'
import { queueCopy } from './moves.ts'

/**
 * A rule that pairs its list with another calendar from now on takes along what it has tied in the one before: each
 * is a move, by which the tie goes over. What repeats, has guests, or stands where nothing can be removed stays, tied.
 */

const LEFT_BEHIND = `FROM ties t JOIN collections k ON k.id = :from AND k.writable = 1 WHERE t.b_mirror = m.id
    AND t.rule_id = :rule AND t.role = 'mirror' AND t.released IS NULL`
const GOES_ALONG = `m.collection_id = :from AND m.presence = 'present' AND m.recurring = 0
  AND IFNULL(JSON_VALUE(m.item, '$.attendees'), 0) = 0 AND EXISTS (SELECT 1 ${LEFT_BEHIND})`

/** How many would go along. */
export async function goingAlong(sql: Sql, rule: string, from: string): Promise<number> {
  const row = await sql.one<{ n: number }>(`SELECT COUNT(*) AS n FROM mirrors m WHERE ${GOES_ALONG}`, {
    rule,
    from,
  })
  return Number(row?.n ?? 0)
}

/** In one transaction each: whoever else has something to do waits for no more. */
const AT_ONCE = 200

export async function takeAlong(
  ctx: Context,
  by: { workspaceId: string; memberId: string },
  rule: string,
  from: string,
  to: string,
): Promise<void> {
  for (let more = true; more;) {
    more = await ctx.db.transaction(async sql => {
      const target = await sql.one<{ connection_id: string }>(
        'SELECT connection_id FROM collections WHERE id = :to',
        { to },
      )
      // What is being written to in this moment stays for now.
      const rows = await sql.rows<MirrorRow>(
        `${MIRRORS} WHERE ${GOES_ALONG} AND NOT EXISTS (SELECT 1 FROM moves v WHERE v.from_mirror = m.id)
           AND NOT EXISTS (SELECT 1 FROM intents i WHERE i.mirror_id = m.id AND i.state IN ('open', 'waiting'))
         ORDER BY m.id LIMIT ${AT_ONCE}`,
        { rule, from },
      )
      if (!target || rows.length === 0) return false
      for (const row of rows)
        await queueCopy(sql, {
          ...by,
          root: row.id,
          parentFrom: null,
          parent: null,
          row,
          target: { collectionId: to, connectionId: target.connection_id },
        })
      await numberChange(sql, by.workspaceId, { topics: ['cloth', 'rules'] })
      return rows.length === AT_ONCE
    })
  }
  ctx.feed.nudge()
}
