import type { Sql } from '../../data/database.ts'
import {
  countGoingAlong,
  addGoingAlong,
  dropGoingAlong,
  copyGoesAlong,
} from '../../data/repositories/moves.ts'

/**
 * A rule that pairs its list with another calendar from now on takes along what it has tied in the one before: each
 * is a move, by which the tie goes over. What goes along is written down as the rule is saved, and taken along by its
 * passes until nothing is left of it. What repeats, has guests, or stands where nothing can be removed stays, tied.
 */

/** How many would go along. */
export async function goingAlong(sql: Sql, rule: string, from: string): Promise<number> {
  const row = await countGoingAlong(sql, { rule, from })
  return Number(row?.n ?? 0)
}

/** Part of the transaction that gives the rule its new target. */
export async function goAlong(sql: Sql, rule: string, from: string, memberId: string): Promise<void> {
  await addGoingAlong(sql, { rule, from, memberId })
}

/** Somebody decides on the item itself, or it cannot go. */
export async function staysBehind(sql: Sql, mirrors: readonly string[]): Promise<void> {
  if (mirrors.length > 0) await dropGoingAlong(sql, { mirrors })
}

/** A copy takes the place of its original, and goes on from there where the rule has got another target meanwhile. */
export async function copyGoesOn(sql: Sql, from: string, to: string): Promise<void> {
  await copyGoesAlong(sql, { from, to })
  await staysBehind(sql, [from])
}
