import type { Sql } from '../../data/database.ts'

/**
 * A rule that pairs its list with another calendar from now on takes along what it has tied in the one before: each
 * is a move, by which the tie goes over. What goes along is written down as the rule is saved, and taken along by its
 * passes until nothing is left of it. What repeats, has guests, or stands where nothing can be removed stays, tied.
 */

export const MAY_GO = `m.recurring = 0 AND IFNULL(JSON_VALUE(m.item, '$.attendees'), 0) = 0
  AND EXISTS (SELECT 1 FROM ties t JOIN collections k ON k.id = m.collection_id AND k.writable = 1
    WHERE t.b_mirror = m.id AND t.rule_id = :rule AND t.role = 'mirror' AND t.released IS NULL)`
const GOES_ALONG = `m.presence = 'present' AND ${MAY_GO}`

/** How many would go along. */
export async function goingAlong(sql: Sql, rule: string, from: string): Promise<number> {
  const row = await sql.one<{ n: number }>(
    `SELECT COUNT(*) AS n FROM mirrors m WHERE m.collection_id = :from AND ${GOES_ALONG}`,
    { rule, from },
  )
  return Number(row?.n ?? 0)
}

/** Part of the transaction that gives the rule its new target. */
export async function goAlong(sql: Sql, rule: string, from: string, memberId: string): Promise<void> {
  await sql.run(
    `REPLACE INTO going_along (mirror_id, rule_id, member_id)
     SELECT m.id, :rule, :memberId FROM mirrors m WHERE m.collection_id = :from AND ${GOES_ALONG}`,
    { rule, from, memberId },
  )
}

/** Somebody decides on the item itself, or it cannot go. */
export async function staysBehind(sql: Sql, mirrors: readonly string[]): Promise<void> {
  if (mirrors.length > 0) await sql.run('DELETE FROM going_along WHERE mirror_id IN (:mirrors)', { mirrors })
}

/** A copy takes the place of its original, and goes on from there where the rule has got another target meanwhile. */
export async function copyGoesOn(sql: Sql, from: string, to: string): Promise<void> {
  await sql.run('UPDATE IGNORE going_along SET mirror_id = :to WHERE mirror_id = :from', { from, to })
  await staysBehind(sql, [from])
}
