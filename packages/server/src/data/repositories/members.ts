import { plain } from '../models/rows.ts'
import type { WhereOptions } from 'sequelize'
import type { MemberColumns } from '../models/people.ts'
import type { Role } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** People of a workspace, with their settings. */

export interface SummaryDue {
  id: string
  workspace_id: string
  role: Role
  name: string
  email: string
  zone: string
  settings: Json<unknown> | null
  summary_sent: string | null
  summary_failures: number
  garden: string
}

/** Only what is asked for leaves this file: a password's hash goes to nobody by the way. */
async function membersWhere<K extends keyof MemberColumns>(
  sql: Sql,
  where: WhereOptions<MemberColumns>,
  attributes: K[],
): Promise<Pick<MemberColumns, K>[]> {
  const found = await sql.models.members.findAll({ where, attributes, order: ['name'], ...sql.within })
  return found as unknown as Pick<MemberColumns, K>[]
}

export const membersOfWorkspace = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<Pick<MemberColumns, 'id' | 'name' | 'email'>[]> =>
  membersWhere(sql, { workspace_id: p.workspaceId, left_at: null }, ['id', 'name', 'email'])

export const teamOfWorkspace = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<Pick<MemberColumns, 'id' | 'name' | 'email' | 'role' | 'zone' | 'joined_at'>[]> =>
  membersWhere(sql, { workspace_id: p.workspaceId, left_at: null }, [
    'id',
    'name',
    'email',
    'role',
    'zone',
    'joined_at',
  ])

export const membersWithSettings = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<Pick<MemberColumns, 'id' | 'role' | 'name' | 'zone' | 'settings'>[]> =>
  membersWhere(sql, { workspace_id: p.workspaceId, left_at: null }, [
    'id',
    'role',
    'name',
    'zone',
    'settings',
  ])

export const memberNames = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<Pick<MemberColumns, 'id' | 'name'>[]> =>
  membersWhere(sql, { workspace_id: p.workspaceId }, ['id', 'name'])

/** Where a user is a member, the workspace that they joined last first. */
export const membershipsOfUser = (
  sql: Sql,
  p: { userId: string },
): Promise<{ id: string; workspaceId: string; workspace: string; role: Role; name: string }[]> =>
  sql.rows(
    `SELECT m.id, m.workspace_id AS workspaceId, w.name AS workspace, m.role, m.name
       FROM members m JOIN workspaces w ON w.id = m.workspace_id
       WHERE m.user_id = :userId AND m.left_at IS NULL ORDER BY m.joined_at DESC, w.name`,
    p,
  )

export interface NewMember {
  id: string
  workspaceId: string
  userId: string
  role: Role
  name: string
  email: string
  zone: string
  now: number
}

/** Whoever was a member before is so again, under the id that they had. */
export async function addMember(sql: Sql, p: NewMember): Promise<void> {
  const { id, workspaceId, userId, role, name, email, zone, now } = p
  const again = { role, joined_at: now, left_at: null, name, email }
  const [known] = await sql.models.members.update(again, {
    where: { workspace_id: workspaceId, user_id: userId },
    transaction: sql.within.transaction,
  })
  if (known > 0) return
  await sql.models.members.create(
    { ...again, id, workspace_id: workspaceId, user_id: userId, zone },
    sql.within,
  )
}

/** The team as it stands, locked until the end of the commit: two who remove one another take turns. */
export const lockTeam = (sql: Sql, p: { workspaceId: string }): Promise<{ id: string; role: Role }[]> =>
  sql.rows(
    'SELECT id, role FROM members WHERE workspace_id = :workspaceId AND left_at IS NULL ORDER BY id FOR UPDATE',
    p,
  )

export const setRole = (sql: Sql, p: { id: string; role: Role }): Promise<void> =>
  change(sql, p.id, { role: p.role })

export const endMembership = (sql: Sql, p: { id: string; now: number }): Promise<void> =>
  change(sql, p.id, { left_at: p.now, daily_summary: 0 })

export const membersNamed = (
  sql: Sql,
  p: { workspaceId: string; ids: readonly string[] },
): Promise<Pick<MemberColumns, 'name' | 'email'>[]> =>
  membersWhere(sql, { workspace_id: p.workspaceId, id: [...p.ids] }, ['name', 'email'])

export const settingsOfMember = async (
  sql: Sql,
  p: { id: string },
): Promise<Pick<MemberColumns, 'settings' | 'daily_summary' | 'summary_trouble'> | null> =>
  (await membersWhere(sql, { id: p.id }, ['settings', 'daily_summary', 'summary_trouble']))[0] ?? null

async function change(sql: Sql, id: string, member: Partial<MemberColumns>): Promise<void> {
  await sql.models.members.update(member, { where: { id }, transaction: sql.within.transaction })
}

export const putMemberSettings = (
  sql: Sql,
  p: { id: string; zone: string | null; summary: number; settings: Json<unknown> },
): Promise<void> =>
  change(sql, p.id, {
    settings: p.settings,
    daily_summary: p.summary,
    ...(p.zone !== null && { zone: p.zone }),
  })

/** Those who want it and whose last try is long enough ago. */
export const membersWithSummary = (sql: Sql, p: { wall: number }): Promise<SummaryDue[]> =>
  sql.rows(
    `SELECT m.id, m.workspace_id, m.role, m.name, m.email, m.zone, m.settings, m.summary_sent, m.summary_failures, w.name AS garden
       FROM members m JOIN workspaces w ON w.id = m.workspace_id
       WHERE m.daily_summary = 1 AND m.left_at IS NULL AND m.summary_next_at <= :wall`,
    p,
  )

/** One of several servers wins: whoever changes the row sends it. */
export const claimSummary = (sql: Sql, p: { id: string; today: string }): Promise<number> =>
  sql.run(
    `UPDATE members SET summary_sent = :today WHERE id = :id AND (summary_sent IS NULL OR summary_sent <> :today)`,
    p,
  )

/** The day is open again, and tried again after `next`, epoch ms. */
export const putSummaryTrouble = (
  sql: Sql,
  p: { id: string; before: string | null; trouble: string; failures: number; next: number },
): Promise<void> =>
  change(sql, p.id, {
    summary_sent: p.before,
    summary_trouble: p.trouble.slice(0, 200),
    summary_failures: p.failures,
    summary_next_at: p.next,
  })

export const putSummaryWell = (sql: Sql, p: { id: string }): Promise<void> =>
  change(sql, p.id, { summary_trouble: null, summary_failures: 0, summary_next_at: 0 })

export const zoneOfMember = (sql: Sql, p: { id: string }): Promise<{ zone: string } | null> =>
  plain(sql.models.members.findOne({ attributes: ['zone'], where: { id: p.id }, ...sql.within }))
