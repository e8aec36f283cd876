import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

export interface SummaryDue {
  id: string
  workspace_id: string
  name: string
  email: string
  zone: string
  settings: Json<unknown> | null
  summary_sent: string | null
  garden: string
}

export const membersOfWorkspace = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ id: string; name: string; email: string }[]> =>
  sql.rows('SELECT id, name, email FROM members WHERE workspace_id = :workspaceId ORDER BY name', p)

export const memberWithMail = (
  sql: Sql,
  p: { account: string },
): Promise<{ id: string; workspace_id: string; password_hash: string } | null> =>
  sql.one('SELECT id, workspace_id, password_hash FROM members WHERE email = :account', p)

export const addMember = (
  sql: Sql,
  p: { id: string; workspaceId: string; passwordHash: string; name: string; email: string; zone: string },
): Promise<void> =>
  sql.insert(
    `INSERT INTO members (id, workspace_id, name, email, password_hash, zone)
         VALUES (:id, :workspaceId, :name, :email, :passwordHash, :zone)`,
    p,
  )

export const membersNamed = (
  sql: Sql,
  p: { workspaceId: string; ids: readonly string[] },
): Promise<{ name: string; email: string }[]> =>
  sql.rows('SELECT name, email FROM members WHERE workspace_id = :workspaceId AND id IN (:ids)', p)

export const membersWithSettings = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ id: string; name: string; zone: string; settings: Json<unknown> }[]> =>
  sql.rows('SELECT id, name, zone, settings FROM members WHERE workspace_id = :workspaceId ORDER BY name', p)

export const settingsOfMember = (
  sql: Sql,
  p: { id: string },
): Promise<{ settings: Json<unknown>; daily_summary: number } | null> =>
  sql.one('SELECT settings, daily_summary FROM members WHERE id = :id', p)

export const putMemberSettings = (
  sql: Sql,
  p: { id: string; zone: string | null; summary: number; settings: Json<unknown> },
): Promise<number> =>
  sql.run(
    `UPDATE members SET settings = :settings, daily_summary = :summary, zone = IFNULL(:zone, zone) WHERE id = :id`,
    p,
  )

export const membersWithSummary = (sql: Sql): Promise<SummaryDue[]> =>
  sql.rows(`SELECT m.id, m.workspace_id, m.name, m.email, m.zone, m.settings, m.summary_sent, w.name AS garden
       FROM members m JOIN workspaces w ON w.id = m.workspace_id WHERE m.daily_summary = 1`)

export const claimSummary = (sql: Sql, p: { id: string; today: string }): Promise<number> =>
  sql.run(
    `UPDATE members SET summary_sent = :today WHERE id = :id AND (summary_sent IS NULL OR summary_sent <> :today)`,
    p,
  )

export const putSummarySent = (sql: Sql, p: { id: string; before: string | null }): Promise<number> =>
  sql.run('UPDATE members SET summary_sent = :before WHERE id = :id', p)

export const memberNames = (sql: Sql, p: { workspaceId: string }): Promise<{ id: string; name: string }[]> =>
  sql.rows('SELECT id, name FROM members WHERE workspace_id = :workspaceId ORDER BY name', p)
