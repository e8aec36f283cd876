import type { Level, Role, TasksAs, ViewBody } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Secret addresses that show some lists to whoever has them. */

export interface LinkView {
  name: string
  body: ViewBody
}

/** A page for a person; for calendar programs one feed of all that is shown, or only when time is taken, or calendars. */
export type Opens = 'page' | 'feed' | 'availability' | 'caldav'

export interface LinkRow {
  id: string
  name: string
  opens: Opens
  tasks_as: TasksAs
  /** So many weeks from today. */
  weeks: number
  made_by: string
  made_at: number
  expires_at: number | null
  /** Only what this shows of them, as the view was then; null for all. */
  view: Json<LinkView> | null
  used_at: number | null
}

/** A list that an address shows, and how much of it. */
export interface ShownList {
  id: string
  level: Level
}

const COLUMNS =
  'l.id, l.name, l.opens, l.tasks_as, l.weeks, l.made_by, l.made_at, l.expires_at, l.view, l.used_at'

export async function addLink(
  sql: Sql,
  p: Omit<LinkRow, 'used_at'> & { hash: string; workspaceId: string; lists: readonly ShownList[] },
): Promise<void> {
  const { lists, ...link } = p
  await sql.insert(
    `INSERT INTO links (id, token_hash, workspace_id, made_by, name, opens, tasks_as, weeks, made_at, expires_at, view)
     VALUES (:id, :hash, :workspaceId, :made_by, :name, :opens, :tasks_as, :weeks, :made_at, :expires_at, :view)`,
    { ...link },
  )
  await sql.insertMany(
    'INSERT INTO link_lists (link_id, collection_id, workspace_id, level) VALUES (?, ?, ?, ?)',
    lists.map(({ id, level }) => [p.id, id, p.workspaceId, level]),
  )
}

export const linksOfWorkspace = (sql: Sql, p: { workspaceId: string }): Promise<LinkRow[]> =>
  sql.rows(`SELECT ${COLUMNS} FROM links l WHERE l.workspace_id = :workspaceId ORDER BY l.made_at`, p)

export const listsOfLinks = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ link_id: string; collection_id: string; level: Level }[]> =>
  sql.rows('SELECT link_id, collection_id, level FROM link_lists WHERE workspace_id = :workspaceId', p)

export const putLinkList = (
  sql: Sql,
  p: { linkId: string; list: string; workspaceId: string; level: Level },
): Promise<void> =>
  sql.insert(
    `INSERT INTO link_lists (link_id, collection_id, workspace_id, level) VALUES (:linkId, :list, :workspaceId, :level)
     ON DUPLICATE KEY UPDATE level = VALUES(level)`,
    p,
  )

export const dropLinkList = (sql: Sql, p: { linkId: string; list: string }): Promise<number> =>
  sql.run('DELETE FROM link_lists WHERE link_id = :linkId AND collection_id = :list', p)

export const dropLink = (sql: Sql, p: { id: string; workspaceId: string }): Promise<number> =>
  sql.run('DELETE FROM links WHERE id = :id AND workspace_id = :workspaceId', p)

/** One that is still valid, of a maker who is still there, with where it leads. */
export interface OpenLink extends LinkRow {
  workspace_id: string
  workspace: string
  zone: string
  maker: string
  role: Role
  seq: number
}

const OPEN = `SELECT ${COLUMNS}, l.workspace_id, w.name AS workspace, w.zone, m.name AS maker, m.role, c.change_seq AS seq
  FROM links l JOIN workspaces w ON w.id = l.workspace_id AND w.deleted_at IS NULL
    JOIN members m ON m.id = l.made_by AND m.left_at IS NULL
    JOIN change_counters c ON c.workspace_id = w.id
  WHERE (l.expires_at IS NULL OR l.expires_at > :now)`

export const openLink = (sql: Sql, p: { hash: string; now: number }): Promise<OpenLink | null> =>
  sql.one(`${OPEN} AND l.token_hash = :hash`, p)

export const openLinkOf = (
  sql: Sql,
  p: { id: string; workspaceId: string; now: number },
): Promise<OpenLink | null> => sql.one(`${OPEN} AND l.id = :id AND l.workspace_id = :workspaceId`, p)

/** Whose link it would be, and where it would lead. */
export const placeOfMember = (
  sql: Sql,
  p: { memberId: string },
): Promise<Pick<OpenLink, 'workspace_id' | 'workspace' | 'maker' | 'role' | 'seq'> | null> =>
  sql.one(
    `SELECT m.workspace_id, w.name AS workspace, m.name AS maker, m.role, c.change_seq AS seq
     FROM members m JOIN workspaces w ON w.id = m.workspace_id
       JOIN change_counters c ON c.workspace_id = w.id
     WHERE m.id = :memberId AND m.left_at IS NULL`,
    p,
  )

export const listsOfLink = (sql: Sql, p: { id: string }): Promise<ShownList[]> =>
  sql.rows('SELECT collection_id AS id, level FROM link_lists WHERE link_id = :id', p)

/** Told to the minute: not each look is a write. */
export const markLinkUsed = (sql: Sql, p: { id: string; now: number; grain: number }): Promise<number> =>
  sql.run(
    'UPDATE links SET used_at = :now WHERE id = :id AND (used_at IS NULL OR used_at < :now - :grain)',
    p,
  )
