import { randomUUID } from 'node:crypto'
import DataLoader from 'dataloader'
import type { Database, Sql } from '../data/database.ts'
import { isConflictOfTransactions } from '../data/database-errors.ts'
import { membershipsOfUser } from '../data/repositories/members.ts'
import { userWithMail } from '../data/repositories/users.ts'
import {
  addSession,
  type Asking,
  dropSession,
  dropSessions,
  markSessionsUsed,
  membersOfSessions,
  openSession,
  type SessionState,
  sessionsOfMember,
  sessionsOfUser,
} from '../data/repositories/sessions.ts'
import { hashPassword, isPassword } from './passwords.ts'
import { hashOf, newToken } from './secrets.ts'
import { SignInLimits } from './sign-in-limits.ts'
import { Streams } from './streams.ts'

const DAY = 86_400_000
export const SESSION_MS = 14 * DAY
/** Last use is told to this, ms. */
const USED_GRAIN_MS = 5 * 60_000
/** Where very many sign in at once. */
const BUSY_SECONDS = 5

/** From where somebody signs in. */
export interface From {
  source: string
  /** What the browser says of itself. */
  device: string
}

/** Whom a new session is for. */
export interface Entering {
  userId: string
  memberId: string
  workspaceId: string
}

export type SignIn =
  | { kind: 'in'; token: string }
  | { kind: 'wait'; seconds: number }
  | { kind: 'wrong' }
  /** The password is right, and the user is a member nowhere. */
  | { kind: 'nowhere' }

/** Sign-in with a password, and the sessions it gives. Only a token's hash is stored. */
export class Sessions {
  readonly limits: SignInLimits
  readonly streams = new Streams()
  /** Verified against when there is no such user, so that both answers take as long. */
  private readonly nobody = hashPassword('nobody at all')

  /** Lookups of the same turn go in one query: after a change, every open page asks. */
  private readonly members = new DataLoader((hashes: readonly string[]) => this.membersOf(hashes), {
    cache: false,
    batchScheduleFn: setImmediate,
    maxBatchSize: 200,
  })

  constructor(private readonly db: Database) {
    this.limits = new SignInLimits(db)
  }

  async signIn(email: string, password: string, from: From): Promise<SignIn> {
    const verified = await this.verify(email, password, from.source)
    if (verified.kind !== 'right') return verified
    const [first] = await membershipsOfUser(this.db, { userId: verified.userId })
    if (!first) return { kind: 'nowhere' }
    const { userId } = verified
    const token = await this.begin(
      this.db,
      { userId, memberId: first.id, workspaceId: first.workspaceId },
      from,
    )
    return { kind: 'in', token }
  }

  /** Whether a password is right; tries are counted by account and source. */
  async verify(
    email: string,
    password: string,
    source: string,
  ): Promise<{ kind: 'right'; userId: string } | Extract<SignIn, { kind: 'wait' | 'wrong' }>> {
    const account = email.toLowerCase()
    const admission = await this.limits.admit(account, source)
    if (admission.kind === 'wait') return admission
    const user = await userWithMail(this.db, { email: account })
    const right = await this.limits.inTurn(async () =>
      isPassword(user?.password_hash ?? (await this.nobody), password),
    )
    if (right === null) return { kind: 'wait', seconds: BUSY_SECONDS }
    if (!user || !right) return { kind: 'wrong' }
    await this.limits.succeeded(account, source)
    return { kind: 'right', userId: user.id }
  }

  /** Returns the token of a new session. */
  async begin(sql: Sql, of: Entering, { device }: Pick<From, 'device'>, by?: 'passkey'): Promise<string> {
    const token = newToken()
    const now = Date.now()
    await addSession(sql, {
      token_hash: hashOf(token),
      id: randomUUID(),
      user_id: of.userId,
      workspace_id: of.workspaceId,
      member_id: of.memberId,
      device: device.slice(0, 300),
      made_at: now,
      used_at: now,
      expires_at: now + SESSION_MS,
      proven: by === 'passkey' ? 1 : 0,
    })
    return token
  }

  async memberOf(token: string): Promise<Asking | null> {
    return this.members.load(hashOf(token))
  }

  /** Whether it may go on as it is: a proof that is owed by now comes first. Being asked so is no use of it. */
  async isOpen(hash: string): Promise<boolean> {
    const now = Date.now()
    const [row] = await membersOfSessions(this.db, { hashes: [hash], now })
    // Of somebody who is being removed it is open until it is ended, which tells their page why.
    return row ? owedBy(row) === null : (await openSession(this.db, { hash, now })) !== null
  }

  /** Whether it is there, though it may have expired: what was ended is not. */
  async isKnown(hash: string): Promise<boolean> {
    return (await openSession(this.db, { hash, now: 0 })) !== null
  }

  async signOut(token: string): Promise<void> {
    await dropSession(this.db, { hash: hashOf(token) })
    this.streams.end(hashOf(token))
  }

  /** Ends sessions of a user: those with these ids; without, all but `but`. Returns how many. */
  async endOf(userId: string, { ids, but }: { ids?: readonly string[]; but?: string }): Promise<number> {
    const all = await sessionsOfUser(this.db, { userId, now: 0 })
    return this.end(all.filter(s => s.token_hash !== but && (!ids || ids.includes(s.id))))
  }

  async endOfMember(memberId: string): Promise<number> {
    return this.end(await sessionsOfMember(this.db, { memberId }))
  }

  /** Every process hears of it, and looks which of its streams have no session any more. */
  private async end(sessions: readonly { token_hash: string; workspace_id: string }[]): Promise<number> {
    const hashes = sessions.map(s => s.token_hash)
    if (hashes.length === 0) return 0
    const dropped = await this.db.commit(async sql => {
      for (const id of new Set(sessions.map(s => s.workspace_id))) sql.tell(id, { topics: ['team'] })
      return dropSessions(sql, { hashes })
    })
    // A stream that ends looks why: the session is to be gone by then.
    for (const hash of hashes) this.streams.end(hash)
    return dropped
  }

  private async membersOf(hashes: readonly string[]): Promise<(Asking | null)[]> {
    const now = Date.now()
    const rows = await membersOfSessions(this.db, { hashes, now })
    const stale = rows.filter(r => now - r.usedAt > USED_GRAIN_MS).map(r => r.hash)
    if (stale.length > 0) await this.markUsed(stale, now)
    const found = new Map(
      rows.map(row => {
        const { hash, usedAt: _, proven: __, wantsSecond, hasCodes: ___, hasPasskey: ____, ...asking } = row
        return [hash, { ...asking, wantsSecond: wantsSecond === 1, owes: owedBy(row) } satisfies Asking]
      }),
    )
    return hashes.map(hash => found.get(hash) ?? null)
  }

  /** Of two processes that mark the same in one moment, one is enough. */
  private async markUsed(hashes: readonly string[], now: number): Promise<void> {
    try {
      await markSessionsUsed(this.db, { hashes, now })
    } catch (error) {
      if (!isConflictOfTransactions(error)) throw error
    }
  }
}

function owedBy({ proven, wantsSecond, hasCodes, hasPasskey }: SessionState): Asking['owes'] {
  if (proven === 1 || (hasCodes === 0 && wantsSecond === 0)) return null
  return hasCodes === 1 || hasPasskey === 1 ? 'proof' : 'setup'
}
