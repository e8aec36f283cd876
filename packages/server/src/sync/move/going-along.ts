import type { Sql } from '../../data/database.ts'
import {
  countGoingAlong,
  addGoingAlong,
  dropGoingAlong,
  copyGoesAlong,
} from '../../data/repositories/moves.ts'

/**
 * If a rule is given another calendar, the events it has tied move there with their ties. The list of moves is
 * stored when the rule is saved, and its passes work through it. Events stay, tied, if they repeat, have guests,
 * or cannot be removed from their calendar.
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
