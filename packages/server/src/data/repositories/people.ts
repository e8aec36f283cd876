import type { Sql } from '../database.ts'

export interface PersonRow {
  connection_id: string
  remote_id: string
  is_me: number
  member_id: string | null
}

export interface PersonWithMember {
  connection_id: string
  remote_id: string
  member_id: string
}

export const addPickOnce = (
  sql: Sql,
  p: { connectionId: string; remoteId: string; workspaceId: string },
): Promise<void> =>
  sql.insert(
    'INSERT IGNORE INTO picks (connection_id, remote_id, workspace_id) VALUES (:connectionId, :remoteId, :workspaceId)',
    p,
  )

export const putPerson = (
  sql: Sql,
  p: {
    connectionId: string
    workspaceId: string
    remoteId: string
    name: string
    email: string | null
    me: number
    memberId: string | null
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO people (connection_id, remote_id, workspace_id, name, email, is_me, member_id)
       VALUES (:connectionId, :remoteId, :workspaceId, :name, :email, :me, :memberId)
       ON DUPLICATE KEY UPDATE name = VALUES(name), email = VALUES(email), is_me = VALUES(is_me)`,
    p,
  )

export const peopleOfConnections = (sql: Sql, p: { connections: readonly string[] }): Promise<PersonRow[]> =>
  sql.rows(
    'SELECT connection_id, remote_id, is_me, member_id FROM people WHERE connection_id IN (:connections)',
    p,
  )

export const meAtService = (sql: Sql, p: { id: string }): Promise<{ remote_id: string } | null> =>
  sql.one('SELECT remote_id FROM people WHERE connection_id = :id AND is_me = 1', p)

export const picksOf = (sql: Sql, p: { id: string }): Promise<{ remote_id: string }[]> =>
  sql.rows('SELECT remote_id FROM picks WHERE connection_id = :id', p)

export const peopleWithMembers = (sql: Sql, p: { workspaceId: string }): Promise<PersonWithMember[]> =>
  sql.rows(
    `SELECT connection_id, remote_id, member_id FROM people
       WHERE workspace_id = :workspaceId AND member_id IS NOT NULL ORDER BY connection_id, remote_id`,
    p,
  )

export const personOfMember = (
  sql: Sql,
  p: { connection: string; member: string },
): Promise<{ remote_id: string } | null> =>
  sql.one('SELECT remote_id FROM people WHERE connection_id = :connection AND member_id = :member', p)

export const namesAtService = (sql: Sql, p: { id: string }): Promise<{ id: string; name: string }[]> =>
  sql.rows('SELECT remote_id AS id, name FROM people WHERE connection_id = :id ORDER BY name', p)

export const setMemberOfPerson = (
  sql: Sql,
  p: { id: string; remoteId: string; memberId: string | null },
): Promise<number> =>
  sql.run('UPDATE people SET member_id = :memberId WHERE connection_id = :id AND remote_id = :remoteId', p)

export const dropPicks = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('DELETE FROM picks WHERE connection_id = :id', p)

export const addPick = (sql: Sql, p: { id: string; remoteId: string; workspaceId: string }): Promise<void> =>
  sql.insert(
    'INSERT INTO picks (connection_id, remote_id, workspace_id) VALUES (:id, :remoteId, :workspaceId)',
    p,
  )

export const peopleSettings = (
  sql: Sql,
  p: { id: string },
): Promise<
  {
    id: string
    name: string
    email: string | null
    me: number
    memberId: string | null
  }[]
> =>
  sql.rows(
    `SELECT remote_id AS id, name, email, is_me AS me, member_id AS memberId FROM people
         WHERE connection_id = :id ORDER BY is_me DESC, name LIMIT 2000`,
    p,
  )

export const putOwnPerson = (
  sql: Sql,
  p: { connection: string; id: string; workspaceId: string; name: string; email: string | null },
): Promise<void> =>
  sql.insert(
    `INSERT INTO people (connection_id, remote_id, workspace_id, name, email, is_me, member_id)
         VALUES (:connection, :id, :workspaceId, :name, :email, 0, :id)
         ON DUPLICATE KEY UPDATE name = VALUES(name), email = VALUES(email), member_id = VALUES(member_id)`,
    p,
  )
