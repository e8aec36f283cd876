import { AsyncLocalStorage } from 'node:async_hooks'
import type { Sql } from './database.ts'
import { isDuplicate } from './database-errors.ts'

/** A request that may come twice and is to be carried out once. */
export interface OnceOnly {
  memberId: string
  key: string
  /** Whether its key was written down, in the transaction that did its work. */
  written: boolean
}

export const onceOnly = new AsyncLocalStorage<OnceOnly>()

/** It was carried out before: the transaction is undone. */
export class Repeated extends Error {
  constructor(readonly request: OnceOnly) {
    super('the request was carried out before')
  }
}

/** Writes down the key of the request that this transaction belongs to, if it has one. Throws Repeated. */
export async function writeOnce(sql: Sql): Promise<OnceOnly | null> {
  const request = onceOnly.getStore()
  if (!request || request.written) return null
  try {
    await sql.insert(
      'INSERT INTO answered (member_id, request_key, made_at) VALUES (:memberId, :key, :now)',
      { memberId: request.memberId, key: request.key, now: Date.now() },
    )
  } catch (error) {
    if (isDuplicate(error)) throw new Repeated(request)
    throw error
  }
  return request
}

export const putAnswer = (
  sql: Sql,
  p: { memberId: string; key: string; status: number; body: string | null },
): Promise<number> =>
  sql.run(
    'UPDATE answered SET status = :status, body = :body WHERE member_id = :memberId AND request_key = :key',
    p,
  )

export const answerTo = (
  sql: Sql,
  p: { memberId: string; key: string },
): Promise<{ status: number | null; body: string | null } | null> =>
  sql.one('SELECT status, body FROM answered WHERE member_id = :memberId AND request_key = :key', p)

export const forgetRequest = (sql: Sql, p: { memberId: string; key: string }): Promise<number> =>
  sql.run('DELETE FROM answered WHERE member_id = :memberId AND request_key = :key', {
    memberId: p.memberId,
    key: p.key,
  })
