import { createHash } from 'node:crypto'
import type { GuestAnswer } from '@loom/core'
import type { Sql } from '../database.ts'

/** Invitations of others that came to a member by mail, each as it was said last. */

export interface ReceivedInvitation {
  id: string
  workspace_id: string
  member_id: string
  uid: string
  /** Which date of a series; '' for all of it. */
  recurrence: string
  method: 'REQUEST' | 'CANCEL'
  sequence: number
  stamp_ms: number
  /** The address from which it came, and whether that is proven. */
  sender: string
  proven: number
  /** The calendar object, as it came. */
  object: string
  answer: GuestAnswer
  /** Whether it stands in a list here, and whether as this says it. */
  kept: number
  is_as_kept: number
  received_at: number
}
const COLUMNS = `id, workspace_id, member_id, uid, recurrence, method, sequence, stamp_ms, sender, proven, object, answer,
  kept, is_as_kept, received_at`

/** The same for one event, or one date of it, that somebody is invited to. */
export const receivedIdOf = (memberId: string, uid: string, recurrence: string): string =>
  createHash('sha256').update(`${memberId} ${recurrence} ${uid}`).digest('hex').slice(0, 32)

export const invitationsTo = (
  sql: Sql,
  p: { memberId: string; since: number },
): Promise<ReceivedInvitation[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM received_invitations WHERE member_id = :memberId AND received_at >= :since
     ORDER BY received_at DESC, id LIMIT 300`,
    p,
  )

export const lockReceived = (
  sql: Sql,
  p: { id: string; memberId: string },
): Promise<ReceivedInvitation | null> =>
  sql.one(
    `SELECT ${COLUMNS} FROM received_invitations WHERE id = :id AND member_id = :memberId FOR UPDATE`,
    p,
  )

export const putReceived = (sql: Sql, p: ReceivedInvitation): Promise<void> =>
  sql.insert(
    `INSERT INTO received_invitations (${COLUMNS})
     VALUES (:id, :workspace_id, :member_id, :uid, :recurrence, :method, :sequence, :stamp_ms, :sender, :proven, :object,
       :answer, :kept, :is_as_kept, :received_at)
     ON DUPLICATE KEY UPDATE method = VALUES(method), sequence = VALUES(sequence), stamp_ms = VALUES(stamp_ms),
       sender = VALUES(sender), proven = VALUES(proven), object = VALUES(object), answer = VALUES(answer),
       kept = VALUES(kept), is_as_kept = VALUES(is_as_kept), received_at = VALUES(received_at)`,
    { ...p },
  )

export const dropReceived = (sql: Sql, p: { id: string; memberId: string }): Promise<number> =>
  sql.run('DELETE FROM received_invitations WHERE id = :id AND member_id = :memberId', p)

export const countReceived = (sql: Sql, p: { memberId: string }): Promise<{ n: number } | null> =>
  sql.one('SELECT COUNT(*) AS n FROM received_invitations WHERE member_id = :memberId', p)

/** The oldest that waits for nobody makes room. */
export const dropSettledReceived = (sql: Sql, p: { memberId: string }): Promise<number> =>
  sql.run(
    `DELETE FROM received_invitations WHERE member_id = :memberId AND (answer <> 'none' OR method = 'CANCEL')
     ORDER BY received_at LIMIT 1`,
    p,
  )

export const dropOldReceived = (sql: Sql, p: { before: number }): Promise<number> =>
  sql.run('DELETE FROM received_invitations WHERE received_at < :before', p)
