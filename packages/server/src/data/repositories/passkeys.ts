import { plain } from '../models/rows.ts'
import type { PasskeyColumns } from '../models/people.ts'
import type { Sql } from '../database.ts'

/** Passkeys of users. */

export async function addPasskey(sql: Sql, passkey: PasskeyColumns): Promise<void> {
  await sql.models.passkeys.create(passkey, sql.within)
}

export const passkeysOfUser = (sql: Sql, p: { userId: string }): Promise<PasskeyColumns[]> =>
  plain(sql.models.passkeys.findAll({ where: { user_id: p.userId }, order: ['made_at'], ...sql.within }))

export const passkeyWithHash = (sql: Sql, p: { hash: string }): Promise<PasskeyColumns | null> =>
  plain(sql.models.passkeys.findOne({ where: { credential_hash: p.hash }, ...sql.within }))

/** Only upwards: of two uses at once with the same count, one was copied. Null counters stay. */
export const countPasskeyUse = (sql: Sql, p: { id: string; counter: number; now: number }): Promise<number> =>
  sql.run(
    `UPDATE passkeys SET counter = :counter, used_at = :now
       WHERE id = :id AND (counter < :counter OR (counter = 0 AND :counter = 0))`,
    p,
  )

export const dropPasskey = (sql: Sql, p: { id: string; userId: string }): Promise<number> =>
  sql.models.passkeys.destroy({
    where: { id: p.id, user_id: p.userId },
    transaction: sql.within.transaction,
  })
