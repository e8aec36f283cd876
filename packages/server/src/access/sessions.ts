import { hash, verify } from '@node-rs/argon2'
import DataLoader from 'dataloader'
import type { Database } from '../data/database.ts'
import { hashOf, newToken } from './secrets.ts'
import { SignInLimits } from './sign-in-limits.ts'
import { Streams } from './streams.ts'
import { memberWithMail } from '../data/repositories/members.ts'
import {
  addSession,
  openSession,
  dropSession,
  membersOfSessions,
  type Asking,
} from '../data/repositories/sessions.ts'

const DAY = 86_400_000
export const SESSION_MS = 14 * DAY
/** Where very many sign in at once. */
const BUSY_SECONDS = 5

export const hashPassword = (password: string): Promise<string> => hash(password)

/** Sign-in with a password (argon2id), and the sessions it gives. Only a token's hash is stored. */
export class Sessions {
  private readonly limits: SignInLimits
  readonly streams = new Streams()
  /** Verified against when there is no such member, so that both answers take as long. */
  private readonly nobody = hash('nobody at all')

  /** Lookups of the same turn go in one query: after a change, every open page asks. */
  private readonly members = new DataLoader((hashes: readonly string[]) => this.membersOf(hashes), {
    cache: false,
    batchScheduleFn: setImmediate,
    maxBatchSize: 200,
  })

  constructor(private readonly db: Database) {
    this.limits = new SignInLimits(db)
  }

  /** Null for wrong credentials; `wait` after too many tries, for how many seconds. */
  async signIn(
    email: string,
    password: string,
    source: string,
  ): Promise<{ token: string } | { wait: number } | null> {
    const account = email.toLowerCase()
    const admission = await this.limits.admit(account, source)
    if (admission.kind === 'wait') return { wait: admission.seconds }
    const row = await memberWithMail(this.db, { account })
    const right = await this.limits.inTurn(async () =>
      verify(row?.password_hash ?? (await this.nobody), password),
    )
    if (right === null) return { wait: BUSY_SECONDS }
    if (!row || !right) return null
    await this.limits.succeeded(account, source)
    const token = newToken()
    await addSession(this.db, {
      hash: hashOf(token),
      workspace: row.workspace_id,
      member: row.id,
      expires: Date.now() + SESSION_MS,
    })
    return { token }
  }

  async memberOf(token: string): Promise<Asking | null> {
    return this.members.load(hashOf(token))
  }

  async isOpen(hash: string): Promise<boolean> {
    const row = await openSession(this.db, {
      hash,
      now: Date.now(),
    })
    return row !== null
  }

  async signOut(token: string): Promise<void> {
    this.streams.end(hashOf(token))
    await dropSession(this.db, { hash: hashOf(token) })
  }

  private async membersOf(hashes: readonly string[]): Promise<(Asking | null)[]> {
    const rows = await membersOfSessions(this.db, { hashes, now: Date.now() })
    const found = new Map(rows.map(({ hash, ...asking }) => [hash, asking]))
    return hashes.map(hash => found.get(hash) ?? null)
  }
}
