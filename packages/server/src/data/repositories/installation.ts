import type { Sql } from '../database.ts'

/** What is known of this installation as a whole. */

export const keyCheck = (sql: Sql): Promise<{ value: string } | null> =>
  sql.one(`SELECT value FROM installation WHERE name = 'key-check'`)

export const putKeyCheck = (sql: Sql, p: { value: string }): Promise<void> =>
  sql.insert(
    `INSERT INTO installation (name, value) VALUES ('key-check', :value) ON DUPLICATE KEY UPDATE value = VALUES(value)`,
    p,
  )

/** By which devices know that a push is ours, sealed; made once. */
export const pushKeys = (sql: Sql): Promise<{ value: string } | null> =>
  sql.one(`SELECT value FROM installation WHERE name = 'push-keys'`)

/** Only where there are none yet. */
export const putPushKeys = (sql: Sql, p: { value: string }): Promise<number> =>
  sql.run(`INSERT IGNORE INTO installation (name, value) VALUES ('push-keys', :value)`, p)

/** Every column that holds something sealed, with its table and key. */
export const SEALED = [
  ['connections', 'id', 'credentials'],
  ['connections', 'id', 'hook_secret'],
  ['doors', 'id', 'token'],
  ['drafts', 'id', 'input'],
  ['drafts', 'id', 'consent'],
  ['users', 'id', 'totp_secret'],
  ['offers', 'id', 'token_sealed'],
  ['bookings', 'id', 'token_sealed'],
  ['push_subscriptions', 'id', 'sealed'],
  ['installation', 'name', 'value'],
] as const

type Sealed = (typeof SEALED)[number]

export const sealedIn = (sql: Sql, [table, key, column]: Sealed): Promise<{ id: string; value: string }[]> =>
  sql.rows(`SELECT ${key} AS id, ${column} AS value FROM ${table} WHERE ${column} IS NOT NULL`)

/** Only if it is still what was read: whoever wrote it meanwhile sealed it with the new key. */
export const sealAgain = (
  sql: Sql,
  [table, key, column]: Sealed,
  p: { id: string; value: string; fresh: string },
): Promise<number> =>
  sql.run(`UPDATE ${table} SET ${column} = :fresh WHERE ${key} = :id AND ${column} = :value`, p)
