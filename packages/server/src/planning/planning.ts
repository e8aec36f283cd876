import { type Planning, planningOf } from '@loom/core/planning'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import { planningRow, putPlanning } from '../data/repositories/planning.ts'
import type { Member } from '../data/repositories/sessions.ts'

/** What a person sets for the planning of their own time. */

export async function planningFor(
  sql: Sql,
  { id }: Member,
): Promise<{ version: number; planning: Planning }> {
  const row = await planningRow(sql, { memberId: id })
  return { version: row?.version ?? 0, planning: planningOf(row ? parsed(row.body) : null) }
}

/** False where it was changed meanwhile. @param version the one that was seen */
export async function changePlanning(
  ctx: Context,
  { id, workspaceId }: Member,
  version: number,
  planning: Planning,
): Promise<boolean> {
  // Nobody else is to hear of it; another window of theirs sees it by the version.
  return ctx.db.commit(sql => putPlanning(sql, { memberId: id, workspaceId, version, body: json(planning) }))
}
