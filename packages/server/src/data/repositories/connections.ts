import type { ConnectionColumns, LookTimeColumns } from '../models/connections.ts'
import { changed, plain } from '../models/rows.ts'
import type { ServiceDescription } from '@loom/connectors'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Accounts at services: how they are reached, how they fare, and when each is looked at next. */

export const CONNECTIONS = `SELECT c.*, l.next_look_at, l.look_every_ms, l.last_ok_at, w.zone AS workspace_zone
  FROM connections c JOIN look_times l ON l.connection_id = c.id JOIN workspaces w ON w.id = c.workspace_id`

export interface ConnectionRow extends ConnectionColumns, Omit<LookTimeColumns, 'connection_id'> {
  workspace_zone: string
}

/**
 * Amber Loom's own lists and calendar: for captured items, forwarded mail and imported files. Rules and screens
 * treat them like any collection.
 */
export const OWN = 'own'

export const anyCredentials = (sql: Sql): Promise<{ value: string } | null> =>
  sql.one(`SELECT credentials AS value FROM connections WHERE kind <> 'own' LIMIT 1`)

export const plainHookSecrets = (sql: Sql): Promise<{ id: string; plain: string }[]> =>
  sql.rows(`SELECT id, hook_secret AS plain FROM connections WHERE hook_secret REGEXP '^[0-9a-f]{64}$'`)

export const sealHookSecret = (sql: Sql, p: { id: string; plain: string; sealed: string }): Promise<number> =>
  sql.run('UPDATE connections SET hook_secret = :sealed WHERE id = :id AND hook_secret = :plain', p)

export const putCredentials = (sql: Sql, p: { id: string; credentials: string }): Promise<number> =>
  changed(
    sql.models.connections.update(
      { credentials: p.credentials },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const addConnection = async (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    kind: string
    name: string
    address: string
    credentials: string
    account: string
    subject: string
    zone: string | null
    hookSecret: string | null
    description: Json<ServiceDescription> | null
    scope: Json<unknown>
    ownerId: string | null
    discoveredAt: number
    readBy: number
  },
): Promise<void> => {
  await sql.models.connections.create(
    {
      id: p.id,
      workspace_id: p.workspaceId,
      kind: p.kind,
      name: p.name,
      address: p.address,
      credentials: p.credentials,
      account_name: p.account,
      account_subject: p.subject,
      zone: p.zone,
      hook_secret: p.hookSecret,
      description: p.description,
      scope: p.scope,
      owner_id: p.ownerId,
      discovered_at: p.discoveredAt,
      read_by: p.readBy,
    },
    sql.within,
  )
  await sql.models.lookTimes.create({ connection_id: p.id }, sql.within)
}

export const connectionById = (sql: Sql, p: { id: string }): Promise<ConnectionRow | null> =>
  sql.one(`${CONNECTIONS} WHERE c.id = :id`, p)

/** Those of them that are in no trouble and not paused. */
export const connectionsAtRest = (sql: Sql, p: { ids: string[] }): Promise<ConnectionRow[]> =>
  sql.rows(`${CONNECTIONS} WHERE c.id IN (:ids) AND c.paused = 0 AND c.state = 'ok'`, p)

export const markSubscribed = (sql: Sql, p: { id: string; now: number }): Promise<number> =>
  changed(
    sql.models.connections.update(
      { subscribed_at: p.now },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const markDiscovered = (sql: Sql, p: { id: string; now: number }): Promise<number> =>
  changed(
    sql.models.connections.update(
      { discovered_at: p.now },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const setSubject = (sql: Sql, p: { id: string; subject: string }): Promise<number> =>
  changed(
    sql.models.connections.update(
      { account_subject: p.subject },
      { where: { id: p.id, account_subject: null }, transaction: sql.within.transaction },
    ),
  )

/**
 * Due now, by another number each time: a look that is under way, and ends by setting when the next is due, must not
 * take this for the asking that began it.
 */
const DUE = 'LEAST(l.next_look_at, 0) - 1'

export const lookNow = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(`UPDATE look_times l SET l.next_look_at = ${DUE} WHERE l.connection_id = :id`, p)

/** @param p.at when it is due, epoch ms */
export const lookAt = (sql: Sql, p: { id: string; at: number }): Promise<number> =>
  sql.run('UPDATE look_times SET next_look_at = :at WHERE connection_id = :id', p)

export const shareSettingsVersion = (
  sql: Sql,
  p: { id: string },
): Promise<{ settings_version: number; paused: number } | null> =>
  sql.one('SELECT settings_version, paused FROM connections WHERE id = :id LOCK IN SHARE MODE', p)

export const markOkAt = (sql: Sql, p: { id: string; now: number }): Promise<number> =>
  changed(
    sql.models.lookTimes.update(
      { last_ok_at: p.now },
      { where: { connection_id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const markWell = (sql: Sql, p: { id: string }): Promise<number> =>
  changed(
    sql.models.connections.update(
      { state: 'ok', trouble: null, failing_since: null, failures: 0 },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const markTrouble = (
  sql: Sql,
  p: { id: string; state: string; trouble: string; now: number; next: number },
): Promise<number> =>
  sql.run(
    `UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.state = :state, c.trouble = :trouble,
       c.failures = c.failures + 1, c.failing_since = IFNULL(c.failing_since, :now), l.next_look_at = :next
     WHERE c.id = :id`,
    p,
  )

export const markCompared = (sql: Sql, p: { connectionId: string; now: number }): Promise<number> =>
  changed(
    sql.models.connections.update(
      { compared_at: p.now },
      { where: { id: p.connectionId }, transaction: sql.within.transaction },
    ),
  )

export const setReadBy = (sql: Sql, p: { id: string; version: number }): Promise<number> =>
  changed(
    sql.models.connections.update(
      { read_by: p.version },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const lookSoon = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(
    `UPDATE look_times l SET l.next_look_at = ${DUE}
     WHERE l.connection_id = :id AND EXISTS (SELECT 1 FROM connections c WHERE c.id = :id AND c.paused = 0)`,
    p,
  )

export const lookAllSoon = (sql: Sql, p: { workspaceId: string }): Promise<number> =>
  sql.run(
    `UPDATE look_times l SET l.next_look_at = ${DUE} WHERE l.connection_id IN
       (SELECT id FROM connections WHERE workspace_id = :workspaceId AND state = 'ok' AND kind <> 'ics-feed')`,
    p,
  )

export const connectionsDue = (sql: Sql, p: { now: number }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT c.id FROM connections c JOIN look_times l ON l.connection_id = c.id
       WHERE l.next_look_at <= :now AND c.paused = 0
     UNION SELECT i.connection_id FROM intents i JOIN connections c ON c.id = i.connection_id
         JOIN look_times l ON l.connection_id = c.id
       WHERE i.state = 'open' AND i.next_try_at <= :now AND c.paused = 0
         AND (c.state = 'ok' OR l.next_look_at <= :now)`,
    p,
  )

export const isPaused = (sql: Sql, p: { id: string }): Promise<{ paused: number } | null> =>
  plain(sql.models.connections.findOne({ attributes: ['paused'], where: { id: p.id }, ...sql.within }))

export const restUntil = (
  sql: Sql,
  p: { id: string; next: number; every: number; was: number },
): Promise<number> =>
  sql.run(
    `UPDATE look_times SET next_look_at = :next, look_every_ms = :every
     WHERE connection_id = :id AND next_look_at = :was`,
    p,
  )

export const sameAccount = (
  sql: Sql,
  p: { workspaceId: string; subject: string },
): Promise<{ name: string; owner_id: string | null } | null> =>
  plain(
    sql.models.connections.findOne({
      attributes: ['name', 'owner_id'],
      where: { workspace_id: p.workspaceId, account_subject: p.subject },
      ...sql.within,
    }),
  )

export const putConnectionSettings = (
  sql: Sql,
  p: { id: string; scope: Json<unknown>; name: string; ownerId: string | null },
): Promise<number> =>
  sql.run(
    `UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.scope = :scope, c.name = :name,
       c.owner_id = :ownerId, c.settings_version = c.settings_version + 1, l.next_look_at = ${DUE}
     WHERE c.id = :id`,
    p,
  )

export const connectionOfWorkspace = (
  sql: Sql,
  p: { id: string; workspaceId: string },
): Promise<ConnectionRow | null> =>
  sql.one(`${CONNECTIONS} WHERE c.id = :id AND c.workspace_id = :workspaceId`, p)

export const connectionsOverview = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<(ConnectionRow & { owner: string | null; people: number; unmatched: number })[]> =>
  sql.rows(
    CONNECTIONS.replace(
      'SELECT',
      `SELECT (SELECT name FROM members o WHERE o.id = c.owner_id) AS owner,
             (SELECT COUNT(*) FROM people p WHERE p.connection_id = c.id) AS people,
             (SELECT COUNT(*) FROM people p WHERE p.connection_id = c.id AND p.member_id IS NULL) AS unmatched,`,
    ) + ` WHERE c.workspace_id = :workspaceId ORDER BY c.kind = '${OWN}', c.name`,
    p,
  )

export const ownedConnections = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ id: string; ownerId: string; name: string }[]> =>
  sql.rows(
    `SELECT id, owner_id AS ownerId, name FROM connections
       WHERE workspace_id = :workspaceId AND owner_id IS NOT NULL ORDER BY name`,
    p,
  )

/** They are the team's from now on. */
export const handOverConnections = (
  sql: Sql,
  p: { memberId: string; workspaceId: string },
): Promise<number> =>
  sql.run(
    'UPDATE connections SET owner_id = NULL WHERE owner_id = :memberId AND workspace_id = :workspaceId',
    p,
  )

export const pauseConnectionsOf = (sql: Sql, p: { memberId: string; workspaceId: string }): Promise<number> =>
  sql.run('UPDATE connections SET paused = 1 WHERE owner_id = :memberId AND workspace_id = :workspaceId', p)

export const setPaused = (sql: Sql, p: { id: string; paused: number }): Promise<number> =>
  changed(
    sql.models.connections.update(
      { paused: p.paused },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const raiseSettingsVersion = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('UPDATE connections SET settings_version = settings_version + 1 WHERE id = :id', p)

export const whatHangsOn = (
  sql: Sql,
  p: { id: string },
): Promise<{
  items: number
  rules: number
  ties: number
  waiting: number
  estimates: number
} | null> =>
  sql.one(
    `SELECT (SELECT COUNT(*) FROM mirrors WHERE connection_id = :id AND presence = 'present') AS items,
           (SELECT COUNT(*) FROM rules r WHERE EXISTS (SELECT 1 FROM collections k WHERE k.connection_id = :id
              AND k.id IN (r.a_collection, r.b_collection))) AS rules,
           (SELECT COUNT(DISTINCT t.id) FROM mirrors m JOIN ties t ON t.a_mirror = m.id OR t.b_mirror = m.id
              WHERE m.connection_id = :id AND t.released IS NULL) AS ties,
           (SELECT COUNT(*) FROM intents WHERE connection_id = :id AND state IN ('open', 'waiting')) AS waiting,
           (SELECT COUNT(*) FROM own_layer o JOIN mirrors m ON m.id = o.mirror_id WHERE m.connection_id = :id) AS estimates`,
    p,
  )

export const deleteConnection = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.models.connections.destroy({ where: { id: p.id }, transaction: sql.within.transaction })

export const ownConnection = (sql: Sql, p: { workspaceId: string }): Promise<{ id: string } | null> =>
  plain(
    sql.models.connections.findOne({
      attributes: ['id'],
      where: { workspace_id: p.workspaceId, kind: OWN },
      ...sql.within,
    }),
  )

export const addOwnConnection = async (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    name: string
    credentials: string
    scope: Json<unknown>
    readBy: number
  },
): Promise<void> => {
  await sql.insert(
    `INSERT INTO connections (id, workspace_id, kind, name, address, credentials, account_name, scope, read_by)
         VALUES (:id, :workspaceId, '${OWN}', :name, '', :credentials, :name, :scope, :readBy)`,
    p,
  )
  await sql.models.lookTimes.create({ connection_id: p.id }, sql.within)
}

export const connectionNames = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ id: string; name: string }[]> =>
  plain(
    sql.models.connections.findAll({
      attributes: ['id', 'name'],
      where: { workspace_id: p.workspaceId },
      order: ['name'],
      ...sql.within,
    }),
  )

export const nameOfConnection = (
  sql: Sql,
  p: { id: string; workspaceId: string },
): Promise<{ name: string } | null> =>
  plain(
    sql.models.connections.findOne({
      attributes: ['name'],
      where: { id: p.id, workspace_id: p.workspaceId },
      ...sql.within,
    }),
  )

/** Those that hold one of these lists or calendars. */
export const connectionsHolding = async (
  sql: Sql,
  p: { workspaceId: string; lists: readonly string[] },
): Promise<ReadonlySet<string>> => {
  const rows = await sql.rows<{ id: string }>(
    'SELECT DISTINCT connection_id AS id FROM collections WHERE workspace_id = :workspaceId AND takes_part = 1 AND id IN (:lists)',
    { workspaceId: p.workspaceId, lists: ['', ...p.lists] },
  )
  return new Set(rows.map(r => r.id))
}
