import { viewOf } from '@loom/core'
import { type Planning, planningOf } from '@loom/core/planning'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import { planningRow, putPlanning } from '../data/repositories/planning.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { viewsFor } from '../team/views-for.ts'

/** What a person sets for the planning of their own time. */

export async function planningFor(
  sql: Sql,
  member: Member,
): Promise<{ version: number; planning: Planning }> {
  const row = await planningRow(sql, { memberId: member.id })
  const planning = planningOf(row ? parsed(row.body) : null)
  return { version: row?.version ?? 0, planning: await asViewsSay(sql, member, planning) }
}

/** A window that follows a view takes what that passes now; where the view is gone, or not theirs to see, what it did. */
async function asViewsSay(sql: Sql, member: Member, planning: Planning): Promise<Planning> {
  if (planning.windows.every(w => w.view === null)) return planning
  const views = new Map((await viewsFor(sql, member)).map(v => [v.row.id, viewOf(parsed(v.row.body)).filter]))
  const windows = planning.windows.map(w => ({ ...w, filter: views.get(w.view ?? '') ?? w.filter }))
  return { ...planning, windows }
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
