import type { Chosen, Grantee, Level, ViewBody } from '@loom/core'
import type { Tx } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import { logSharing } from '../data/repositories/grants.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { putViewGrants, viewGrants, type ViewGrantRow } from '../data/repositories/views.ts'

/** Whom a saved view is for, and what comes into sight by it. */

export interface SaidOfView {
  to: Grantee
  level: Level
  /** Null: each sees by it what they see anyway. */
  opens: Level | null
}

type Row = Omit<ViewGrantRow, 'view_id' | 'giver_role'>

const idOf = (to: Grantee): string => (to.kind === 'everybody' ? '' : to.id)
const isTo = ({ to }: SaidOfView, row: Row): boolean => row.to_kind === to.kind && row.to_id === idOf(to)

/**
 * What a view opens stays as it was when it was granted: who else changes the view afterwards opens nothing more. Who
 * granted it says it anew whenever they save the view.
 */
function rowOf(said: SaidOfView, before: Row | undefined, member: Member, body: ViewBody): Row {
  const { to, level, opens } = said
  const row = { to_kind: to.kind, to_id: idOf(to), level, opens }
  if (opens === null) return { ...row, granted_by: null, chosen: null }
  if (before?.opens === opens && before.granted_by !== member.id)
    return { ...row, granted_by: before.granted_by, chosen: before.chosen }
  const chosen: Chosen = { filter: body.filter, hidden: body.hidden }
  return { ...row, granted_by: member.id, chosen: json(chosen) }
}

/** Writes them where they differ from what was said before, and who opened what. */
export async function sayOfView(
  sql: Tx,
  { member, at }: { member: Member; at: number },
  view: { id: string; name: string; body: ViewBody },
  said: readonly SaidOfView[] | null,
): Promise<void> {
  const { workspaceId } = member
  const before = (await viewGrants(sql, { workspaceId })).filter(g => g.view_id === view.id)
  const kept = before.map(g => ({ ...toOf(g), level: g.level, opens: g.opens }))
  const rows = (said ?? kept).map(s =>
    rowOf(
      s,
      before.find(b => isTo(s, b)),
      member,
      view.body,
    ),
  )
  const texts = (all: readonly Row[]): string => JSON.stringify(all.map(textOf).sort())
  if (texts(rows) === texts(before)) return
  await putViewGrants(sql, { id: view.id, workspaceId, grants: rows })
  let opens = false
  for (const row of [...rows, ...before.filter(b => !rows.some(r => keyOf(r) === keyOf(b)))]) {
    const was = before.find(b => keyOf(b) === keyOf(row))
    const now = rows.find(r => keyOf(r) === keyOf(row))
    opens ||= (was?.opens ?? null) !== null || (now?.opens ?? null) !== null
    if ((was?.opens ?? null) === (now?.opens ?? null)) continue
    const act = {
      do: 'lens' as const,
      view: view.name,
      to: `${row.to_kind} ${row.to_id}`,
      level: now?.opens ?? null,
      before: was?.opens ?? null,
    }
    await logSharing(sql, { workspaceId, at, memberId: member.id, collectionId: null, act })
  }
  if (opens) sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections', 'rules', 'journal'] })
}

const keyOf = (row: Row): string => `${row.to_kind} ${row.to_id}`
const textOf = (row: Row): string =>
  JSON.stringify([keyOf(row), row.level, row.opens, row.granted_by, row.chosen && parsed(row.chosen)])
const toOf = ({ to_kind: kind, to_id: id }: Row): { to: Grantee } => ({
  to: kind === 'everybody' ? { kind } : { kind, id },
})
