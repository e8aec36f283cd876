import { plain } from '../models/rows.ts'
import type { UserColumns } from '../models/people.ts'
import type { Sql } from '../database.ts'

/** Users: who signs in, whatever workspaces they are members of. */

type User = Pick<UserColumns, 'id' | 'email' | 'password_hash'>
const COLUMNS = ['id', 'email', 'password_hash']

/** `email` in lower case. */
export const userWithMail = (sql: Sql, p: { email: string }): Promise<User | null> =>
  plain(sql.models.users.findOne({ attributes: COLUMNS, where: { email: p.email }, ...sql.within }))

export const userWithId = (sql: Sql, p: { id: string }): Promise<User | null> =>
  plain(sql.models.users.findOne({ attributes: COLUMNS, where: { id: p.id }, ...sql.within }))

export async function addUser(
  sql: Sql,
  p: { id: string; email: string; passwordHash: string; now: number },
): Promise<void> {
  const { id, email, passwordHash, now } = p
  await sql.models.users.create({ id, email, password_hash: passwordHash, made_at: now }, sql.within)
}

export async function setPasswordHash(sql: Sql, p: { id: string; passwordHash: string }): Promise<void> {
  await sql.models.users.update(
    { password_hash: p.passwordHash },
    { where: { id: p.id }, transaction: sql.within.transaction },
  )
}
