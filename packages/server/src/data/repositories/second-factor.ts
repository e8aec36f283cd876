import type { Sql } from '../database.ts'

/** One-time codes and recovery codes of users; sessions in which one was given. */

export interface CodesRow {
  /** Sealed. */
  secret: string | null
  /** When they were confirmed; null while they are being set up. */
  since: number | null
  left: number
  passkeys: number
}

export const codesOf = (sql: Sql, p: { userId: string }): Promise<CodesRow | null> =>
  sql.one(
    `SELECT u.totp_secret AS secret, u.totp_at AS since,
       (SELECT COUNT(*) FROM recovery_codes r WHERE r.user_id = u.id) AS \`left\`,
       (SELECT COUNT(*) FROM passkeys p WHERE p.user_id = u.id) AS passkeys
     FROM users u WHERE u.id = :userId`,
    p,
  )

/** Only where none are confirmed. */
export const beginCodes = (sql: Sql, p: { userId: string; secret: string }): Promise<number> =>
  sql.run('UPDATE users SET totp_secret = :secret, totp_step = 0 WHERE id = :userId AND totp_at IS NULL', p)

/** A code counts once: of two who give the same, one is taken. */
export const takeStep = (sql: Sql, p: { userId: string; step: number }): Promise<number> =>
  sql.run('UPDATE users SET totp_step = :step WHERE id = :userId AND totp_step < :step', p)

export const confirmCodes = (sql: Sql, p: { userId: string; now: number }): Promise<number> =>
  sql.run('UPDATE users SET totp_at = :now WHERE id = :userId AND totp_at IS NULL', p)

export async function dropCodes(sql: Sql, p: { userId: string }): Promise<void> {
  await sql.run('UPDATE users SET totp_secret = NULL, totp_at = NULL WHERE id = :userId', p)
  await sql.run('DELETE FROM recovery_codes WHERE user_id = :userId', p)
}

/** In place of those there were. */
export async function putRecoveryCodes(
  sql: Sql,
  p: { userId: string; hashes: readonly string[] },
): Promise<void> {
  await sql.run('DELETE FROM recovery_codes WHERE user_id = :userId', { userId: p.userId })
  await sql.insertMany(
    'INSERT INTO recovery_codes (user_id, code_hash) VALUES (?, ?)',
    p.hashes.map(hash => [p.userId, hash]),
  )
}

export const takeRecoveryCode = (sql: Sql, p: { userId: string; hash: string }): Promise<number> =>
  sql.run('DELETE FROM recovery_codes WHERE user_id = :userId AND code_hash = :hash', p)

export const proveSession = (sql: Sql, p: { hash: string }): Promise<number> =>
  sql.run('UPDATE sessions SET proven = 1 WHERE token_hash = :hash', p)

/** Where nothing is left to prove a session by, none is proven any more. */
export const unproveWithout = (sql: Sql, p: { userId: string }): Promise<number> =>
  sql.run(
    `UPDATE sessions s JOIN users u ON u.id = s.user_id SET s.proven = 0
     WHERE s.user_id = :userId AND u.totp_at IS NULL
       AND NOT EXISTS (SELECT 1 FROM passkeys p WHERE p.user_id = u.id)`,
    p,
  )

/** Members of a workspace who have neither a passkey nor codes. */
export const membersWithout = (sql: Sql, p: { workspaceId: string }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT m.id FROM members m JOIN users u ON u.id = m.user_id
     WHERE m.workspace_id = :workspaceId AND m.left_at IS NULL AND u.totp_at IS NULL
       AND NOT EXISTS (SELECT 1 FROM passkeys p WHERE p.user_id = u.id)`,
    p,
  )
