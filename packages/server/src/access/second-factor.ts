import { randomInt } from 'node:crypto'
import { Secret, TOTP } from 'otpauth'
import type { Database, Sql } from '../data/database.ts'
import {
  beginCodes,
  codesOf,
  confirmCodes,
  dropCodes,
  proveSession,
  putRecoveryCodes,
  takeRecoveryCode,
  takeStep,
  unproveWithout,
} from '../data/repositories/second-factor.ts'
import { type Limit, limitOf } from './limits.ts'
import { hashOf, seal, type Secrets, unseal } from './secrets.ts'

/**
 * One-time codes beside the password (RFC 6238: six digits, thirty seconds). A code is taken from the step before to
 * the step after, as clocks differ, and once. Recovery codes stand in for a telephone that is lost, each once.
 */

const ISSUER = 'Amber Loom'
/** Steps to either side. */
const SKEW = 1
const RECOVERY = 8
/** No letters that look like digits. */
const LETTERS = 'abcdefghjkmnpqrstuvwxyz23456789'

const totpOf = (secret: string, label = ''): TOTP =>
  new TOTP({ issuer: ISSUER, label, secret: Secret.fromBase32(secret) })

const newRecoveryCode = (): string => {
  const letters = Array.from({ length: 10 }, () => LETTERS[randomInt(LETTERS.length)]).join('')
  return `${letters.slice(0, 5)}-${letters.slice(5)}`
}
const plainCode = (code: string): string => code.toLowerCase().replace(/[\s-]/g, '')

/** What a code came to: taken; not right; or so often tried that one has to wait, seconds. */
export type Proof = { kind: 'taken' } | { kind: 'wrong' } | { kind: 'wait'; seconds: number }

export class SecondFactor {
  private readonly tries: Limit

  constructor(
    private readonly db: Database,
    private readonly secrets: Secrets,
  ) {
    this.tries = limitOf(db, { name: 'codes', times: 8, seconds: 300 })
  }

  /** A new secret, to be put into a telephone; null where codes are in use already. */
  async begin({
    userId,
    email,
  }: {
    userId: string
    email: string
  }): Promise<{ key: string; uri: string } | null> {
    const key = new Secret({ size: 20 }).base32
    const begun = await beginCodes(this.db, { userId, secret: seal(key, this.secrets) })
    return begun === 1 ? { key, uri: totpOf(key, email).toString() } : null
  }

  /** The first code says that the secret has arrived. */
  async confirm(userId: string, code: string): Promise<Proof | { kind: 'confirmed'; recovery: string[] }> {
    const wait = await this.tries.count(userId)
    if (wait !== null) return { kind: 'wait', seconds: wait }
    return this.db.commit(async sql => {
      if (!(await this.isCode(sql, userId, code))) return { kind: 'wrong' as const }
      if ((await confirmCodes(sql, { userId, now: Date.now() })) === 0) return { kind: 'wrong' as const }
      return { kind: 'confirmed' as const, recovery: await this.freshRecovery(sql, userId) }
    })
  }

  /** Whether a code, or a recovery code, is right. It is used up by that. */
  async take(userId: string, code: string): Promise<Proof> {
    const wait = await this.tries.count(userId)
    if (wait !== null) return { kind: 'wait', seconds: wait }
    const isTaken = await this.db.commit(async sql => {
      const known = await codesOf(sql, { userId })
      if (known?.since == null) return false
      if (await this.isCode(sql, userId, code)) return true
      return (await takeRecoveryCode(sql, { userId, hash: hashOf(plainCode(code)) })) === 1
    })
    if (!isTaken) return { kind: 'wrong' }
    await this.tries.forget(userId)
    return { kind: 'taken' }
  }

  prove = (session: string): Promise<number> => proveSession(this.db, { hash: session })

  renewRecovery = (userId: string): Promise<string[]> =>
    this.db.commit(sql => this.freshRecovery(sql, userId))

  off = (userId: string): Promise<void> =>
    this.db.commit(async sql => {
      await dropCodes(sql, { userId })
      await unproveWithout(sql, { userId })
    })

  private async isCode(sql: Sql, userId: string, code: string): Promise<boolean> {
    const secret = (await codesOf(sql, { userId }))?.secret
    const token = code.replace(/\s/g, '')
    if (!secret || !/^\d{6}$/.test(token)) return false
    const totp = totpOf(unseal(secret, this.secrets) as string)
    const timestamp = Date.now()
    const delta = totp.validate({ token, window: SKEW, timestamp })
    if (delta === null) return false
    return (await takeStep(sql, { userId, step: totp.counter({ timestamp }) + delta })) === 1
  }

  private async freshRecovery(sql: Sql, userId: string): Promise<string[]> {
    const codes = Array.from({ length: RECOVERY }, newRecoveryCode)
    await putRecoveryCodes(sql, { userId, hashes: codes.map(c => hashOf(plainCode(c))) })
    return codes
  }
}
