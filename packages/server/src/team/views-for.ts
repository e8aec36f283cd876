import { type Grant, type Level, type ViewRight, viewRight } from '@loom/core'
import { grantOf, sharingOf } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { viewGrants, type ViewRow, viewsOfWorkspace } from '../data/repositories/views.ts'

/** Saved views as a member knows them. */

export interface Known {
  row: ViewRow
  right: ViewRight
  grants: (Grant & { opens: Level | null })[]
}

/** Those that a member knows of, or only one of them. */
export async function viewsFor(sql: Sql, member: Member, id?: string): Promise<Known[]> {
  const { workspaceId } = member
  const rows = await viewsOfWorkspace(sql, { workspaceId, ...(id !== undefined && { id }) })
  const granted = await viewGrants(sql, { workspaceId })
  const who = (await sharingOf(sql, workspaceId)).onlooker(member)
  return rows.flatMap(row => {
    const of = granted.filter(g => g.view_id === row.id)
    const grants = of.map(g => ({ ...grantOf({ ...g, granted_by: null }), opens: g.opens }))
    const right = viewRight(who, { owner: row.owner, grants })
    return right === 'none' ? [] : [{ row, right, grants }]
  })
}
