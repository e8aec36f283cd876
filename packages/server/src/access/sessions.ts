import { hash, verify } from '@node-rs/argon2'
import DataLoader from 'dataloader'
import type { Database } from '../data/database.ts'
import { hashOf, newToken } from './secrets.ts'

export interface Member {
  id: string
  workspaceId: string
  name: string
  email: string
  zone: string
}

/** Who asks, and the number of the last change in their workspace when they did. */
export interface Asking extends Member {
  seq: number
}

const DAY = 86_400_000
export const SESSION_MS = 14 * DAY
const TRIES = 10
const WINDOW_MS = 5 * 60_000

export const hashPassword = (password: string): Promise<string> => hash(password)

/** Sign-in with a password (argon2id), and the sessions it gives. Only a token's hash is stored. */
export class Sessions {
  private readonly tries = new Map<string, number[]>()
  /** Verified against when there is no such member, so that both answers take as long. */
  private readonly nobody = hash('nobody at all')

  /** Whoever asks in the same turn is looked up at once: after a change, every open page asks. */
  private readonly members = new DataLoader((hashes: readonly string[]) => this.membersOf(hashes), {
    cache: false,
    batchScheduleFn: setImmediate,
    maxBatchSize: 200,
  })

  constructor(private readonly db: Database) {}

  /** Null for wrong credentials, `wait` after too many tries. */
  async signIn(email: string, password: string, from: string): Promise<{ token: string } | 'wait' | null> {
    const key = `${from} ${email.toLowerCase()}`
    const recent = (this.tries.get(key) ?? []).filter(at => at > Date.now() - WINDOW_MS)
    if (recent.length >= TRIES) return 'wait'
    this.tries.set(key, [...recent, Date.now()])
    const row = await this.db.one<{ id: string; workspace_id: string; password_hash: string }>(
      'SELECT id, workspace_id, password_hash FROM members WHERE email = :email',
      { email: email.toLowerCase() },
    )
    const right = await verify(row?.password_hash ?? (await this.nobody), password)
    if (!row || !right) return null
    this.tries.delete(key)
    const token = newToken()
    await this.db.insert(
      `INSERT INTO sessions (token_hash, workspace_id, member_id, expires_at)
       VALUES (:hash, :workspace, :member, :expires)`,
      { hash: hashOf(token), workspace: row.workspace_id, member: row.id, expires: Date.now() + SESSION_MS },
    )
    return { token }
  }

  async memberOf(token: string): Promise<Asking | null> {
    return this.members.load(hashOf(token))
  }

  async signOut(token: string): Promise<void> {
    await this.db.run('DELETE FROM sessions WHERE token_hash = :hash', { hash: hashOf(token) })
  }

  private async membersOf(hashes: readonly string[]): Promise<(Asking | null)[]> {
    const rows = await this.db.rows<Asking & { hash: string }>(
      `SELECT s.token_hash AS hash, m.id, m.workspace_id AS workspaceId, m.name, m.email, m.zone, w.change_seq AS seq
       FROM sessions s JOIN members m ON m.id = s.member_id JOIN workspaces w ON w.id = m.workspace_id
       WHERE s.token_hash IN (:hashes) AND s.expires_at > :now`,
      { hashes, now: Date.now() },
    )
    const found = new Map(rows.map(({ hash, ...asking }) => [hash, asking]))
    return hashes.map(hash => found.get(hash) ?? null)
  }
}
