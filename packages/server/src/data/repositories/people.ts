import { Op } from 'sequelize'
import { changed, plain } from '../models/rows.ts'
import type { Sql } from '../database.ts'

/** People as services know them, and which member each is. */

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
  plain(
    sql.models.people.findAll({
      attributes: ['connection_id', 'remote_id', 'is_me', 'member_id'],
      where: { connection_id: { [Op.in]: [...p.connections] } },
      ...sql.within,
    }),
  )

export const meAtService = (sql: Sql, p: { id: string }): Promise<{ remote_id: string } | null> =>
  plain(
    sql.models.people.findOne({
      attributes: ['remote_id'],
      where: { connection_id: p.id, is_me: 1 },
      ...sql.within,
    }),
  )

export const picksOf = (sql: Sql, p: { id: string }): Promise<{ remote_id: string }[]> =>
  plain(
    sql.models.picks.findAll({ attributes: ['remote_id'], where: { connection_id: p.id }, ...sql.within }),
  )

export const peopleWithMembers = (sql: Sql, p: { workspaceId: string }): Promise<PersonWithMember[]> =>
  plain(
    sql.models.people.findAll({
      attributes: ['connection_id', 'remote_id', 'member_id'],
      where: { workspace_id: p.workspaceId, member_id: { [Op.ne]: null } },
      order: ['connection_id', 'remote_id'],
      ...sql.within,
    }),
  )

export const personOfMember = (
  sql: Sql,
  p: { connection: string; member: string },
): Promise<{ remote_id: string } | null> =>
  plain(
    sql.models.people.findOne({
      attributes: ['remote_id'],
      where: { connection_id: p.connection, member_id: p.member },
      ...sql.within,
    }),
  )

export const namesAtService = (sql: Sql, p: { id: string }): Promise<{ id: string; name: string }[]> =>
  plain(
    sql.models.people.findAll({
      attributes: [['remote_id', 'id'], 'name'],
      where: { connection_id: p.id },
      order: ['name'],
      ...sql.within,
    }),
  )

/** The people of the services that these lists and calendars are at. */
export const namesInCollections = (
  sql: Sql,
  p: { collections: readonly string[] },
): Promise<{ collection: string; id: string; name: string }[]> =>
  sql.rows(
    `SELECT k.id AS collection, p.remote_id AS id, p.name FROM people p
       JOIN collections k ON k.connection_id = p.connection_id WHERE k.id IN (:collections)`,
    p,
  )

export const setMemberOfPerson = (
  sql: Sql,
  p: { id: string; remoteId: string; memberId: string | null },
): Promise<number> =>
  changed(
    sql.models.people.update(
      { member_id: p.memberId },
      { where: { connection_id: p.id, remote_id: p.remoteId }, transaction: sql.within.transaction },
    ),
  )

export const dropPicks = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.models.picks.destroy({ where: { connection_id: p.id }, transaction: sql.within.transaction })

export const addPick = (sql: Sql, p: { id: string; remoteId: string; workspaceId: string }): Promise<void> =>
  sql.models.picks
    .create({ connection_id: p.id, remote_id: p.remoteId, workspace_id: p.workspaceId }, sql.within)
    .then(() => undefined)

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
  plain(
    sql.models.people.findAll({
      attributes: [['remote_id', 'id'], 'name', 'email', ['is_me', 'me'], ['member_id', 'memberId']],
      where: { connection_id: p.id },
      order: [['is_me', 'DESC'], 'name'],
      limit: 2000,
      ...sql.within,
    }),
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
