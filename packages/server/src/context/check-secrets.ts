import type { Database, Sql } from '../data/database.ts'
import { CannotStart } from './config.ts'
import { resealed, seal, type Secrets, unseal } from '../access/secrets.ts'
import { keyCheck, putKeyCheck, SEALED, sealAgain, sealedIn } from '../data/repositories/installation.ts'
import { anyCredentials, plainHookSecrets, sealHookSecret } from '../data/repositories/connections.ts'

/** Where sealed values stand: a table, its key, and the column. */

const WORDS = 'sealed by this installation'

/**
 * Checks that LOOM_SECRET opens the sealed secrets in the database; otherwise the server would start and every
 * connection fail. Secrets still sealed with LOOM_SECRET_OLD are sealed again. Throws CannotStart.
 */
export async function checkSecrets(db: Database, secrets: Secrets): Promise<void> {
  const known = await keyCheck(db)
  const sample = known?.value ?? (await anySealed(db))
  if (sample !== null && !opens(sample, secrets))
    throw new CannotStart(
      'LOOM_SECRET is not the one that the passwords in this database were sealed with. Set it to that one, or set LOOM_SECRET_OLD to it.',
    )
  await sealHookSecrets(db, secrets)
  if (secrets.old) await sealAnew(db, secrets)
  await putKeyCheck(db, { value: seal(WORDS, secrets) })
}

const anySealed = async (sql: Sql): Promise<string | null> => (await anyCredentials(sql))?.value ?? null

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
  for (const { id, plain } of await plainHookSecrets(db))
    await sealHookSecret(db, {
      id,
      plain,
      sealed: seal(plain, secrets),
    })
}

async function sealAnew(db: Database, secrets: Secrets): Promise<void> {
  for (const column of SEALED)
    for (const { id, value } of await sealedIn(db, column)) {
      const fresh = opens(value, secrets) ? resealed(value, secrets) : null
      if (fresh !== null) await sealAgain(db, column, { id, value, fresh })
    }
}
