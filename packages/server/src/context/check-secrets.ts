import type { Database, Sql } from '../data/database.ts'
import { CannotStart } from './config.ts'
import { resealed, seal, type Secrets, unseal } from '../access/secrets.ts'

/** Where sealed values stand: a table, its key, and the column. */
const SEALED = [
  ['connections', 'id', 'credentials'],
  ['connections', 'id', 'hook_secret'],
  ['doors', 'id', 'token'],
  ['drafts', 'id', 'input'],
  ['drafts', 'id', 'consent'],
] as const

const WORDS = 'sealed by this installation'

/**
 * Whether what is sealed in the database can be opened with LOOM_SECRET: else everything would start, and every
 * connection fail. What is still sealed with LOOM_SECRET_OLD is sealed anew. Throws CannotStart.
 */
export async function checkSecrets(db: Database, secrets: Secrets): Promise<void> {
  const known = await db.one<{ value: string }>(`SELECT value FROM installation WHERE name = 'key-check'`)
  const sample = known?.value ?? (await anySealed(db))
  if (sample !== null && !opens(sample, secrets))
    throw new CannotStart(
      'LOOM_SECRET is not the one that the passwords in this database were sealed with. Set it to that one, or set LOOM_SECRET_OLD to it.',
    )
  await sealHookSecrets(db, secrets)
  if (secrets.old) await sealAnew(db, secrets)
  await db.insert(
    `INSERT INTO installation (name, value) VALUES ('key-check', :value) ON DUPLICATE KEY UPDATE value = VALUES(value)`,
    { value: seal(WORDS, secrets) },
  )
}

const anySealed = async (sql: Sql): Promise<string | null> =>
  (
    await sql.one<{ value: string }>(
      `SELECT credentials AS value FROM connections WHERE kind <> 'own' LIMIT 1`,
    )
  )?.value ?? null

function opens(sealed: string, secrets: Secrets): boolean {
  try {
    unseal(sealed, secrets)
    return true
  } catch {
    return false
  }
}

/** Before version 0012 these stood there as they are: 64 hexadecimal digits, which nothing sealed looks like. */
async function sealHookSecrets(db: Database, secrets: Secrets): Promise<void> {
  for (const { id, plain } of await db.rows<{ id: string; plain: string }>(
    `SELECT id, hook_secret AS plain FROM connections WHERE hook_secret REGEXP '^[0-9a-f]{64}$'`,
  ))
    await db.run('UPDATE connections SET hook_secret = :sealed WHERE id = :id AND hook_secret = :plain', {
      id,
      plain,
      sealed: seal(plain, secrets),
    })
}

async function sealAnew(db: Database, secrets: Secrets): Promise<void> {
  for (const [table, key, column] of SEALED)
    for (const { id, value } of await db.rows<{ id: string; value: string }>(
      `SELECT ${key} AS id, ${column} AS value FROM ${table} WHERE ${column} IS NOT NULL`,
    )) {
      const fresh = opens(value, secrets) ? resealed(value, secrets) : null
      if (fresh !== null)
        await db.run(`UPDATE ${table} SET ${column} = :fresh WHERE ${key} = :id AND ${column} = :value`, {
          fresh,
          id,
          value,
        })
    }
}
