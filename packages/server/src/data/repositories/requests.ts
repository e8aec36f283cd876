import type { Level, When } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** What members ask of one another, and what became of it. */

/** What is asked, with what it was about as it was then: nobody accepts what has become something else. */
export type Asked =
  | { ask: 'give'; to: string; title: string; due: When | null; minutes: number | null }
  | { ask: 'see'; level: Level }
  | { ask: 'time'; pieces: AskedTime[] }
  | AskedToCarry

/** That a person gives a task of theirs this time: as its plan, or as a block where they keep their time. */
export interface AskedTime {
  task: string
  as: 'plan' | 'block'
  /** Epoch ms. */
  fromMs: number
  toMs: number
  title: string
  due: When | null
  minutes: number | null
}

/** That a rule may show so much of a list to those who see another one. */
export interface AskedToCarry {
  ask: 'carry'
  /** Null for one that is only to be made. */
  rule: string | null
  target: string
  level: Level
  /** Who would see more by it. */
  who: string[]
  /** What is done once all agree; null where whoever asked does it themselves. */
  then: unknown
}

export type RequestState = 'open' | 'accepted' | 'declined' | 'lapsed' | 'withdrawn'

export interface RequestRow {
  id: string
  made_by: string
  made_at: number
  /** Of which list or calendar; null where all that `of_member` owns is meant. */
  collection_id: string | null
  mirror_id: string | null
  of_member: string | null
  body: Json<Asked>
  state: RequestState
  answered_by: string | null
  answered_at: number | null
  reason: string | null
  /** The name of its list and service; null where it is about no single one. */
  place: string | null
}

const REQUESTS = `SELECT r.id, r.made_by, r.made_at, r.collection_id, r.mirror_id, r.of_member, r.body, r.state, r.answered_by,
    r.answered_at, r.reason, CONCAT(n.name, ' · ', k.name) AS place
  FROM requests r LEFT JOIN collections k ON k.id = r.collection_id LEFT JOIN connections n ON n.id = k.connection_id`

/** All that are open, and those that were answered since, so that many of these hide none of the first. Newest first. */
export const requestsSince = (sql: Sql, p: { workspaceId: string; since: number }): Promise<RequestRow[]> =>
  sql.rows(
    `${REQUESTS} WHERE r.workspace_id = :workspaceId AND (r.state = 'open' OR r.answered_at >= :since)
     ORDER BY r.state = 'open' DESC, r.made_at DESC, r.id LIMIT 2000`,
    p,
  )

export const requestToAnswer = (
  sql: Sql,
  p: { workspaceId: string; id: string },
): Promise<RequestRow | null> =>
  sql.one(`${REQUESTS} WHERE r.workspace_id = :workspaceId AND r.id = :id AND r.state = 'open'`, p)

export const requestOf = (sql: Sql, p: { workspaceId: string; id: string }): Promise<RequestRow | null> =>
  sql.one(`${REQUESTS} WHERE r.workspace_id = :workspaceId AND r.id = :id`, p)

export const addRequest = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    madeBy: string
    at: number
    collectionId: string | null
    mirrorId: string | null
    ofMember: string | null
    body: Json<Asked>
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO requests (id, workspace_id, made_by, made_at, collection_id, mirror_id, of_member, body, state)
     VALUES (:id, :workspaceId, :madeBy, :at, :collectionId, :mirrorId, :ofMember, :body, 'open')`,
    p,
  )

/** Whoever settles it first; 0 for the others. */
export const settleRequest = (
  sql: Sql,
  p: { id: string; state: RequestState; by: string; at: number; reason: string | null },
): Promise<number> =>
  sql.run(
    `UPDATE requests SET state = :state, answered_by = :by, answered_at = :at, reason = :reason
     WHERE id = :id AND state = 'open'`,
    p,
  )

/** What was agreed to could not be done after all, or only in part. */
export const sayOfRequest = (
  sql: Sql,
  p: { id: string; state: RequestState; reason: string },
): Promise<number> => sql.run('UPDATE requests SET state = :state, reason = :reason WHERE id = :id', p)

/** What somebody answered waits again: it could not be done after all, or they take their answer back. */
export const reopenRequest = (sql: Sql, p: { id: string; by: string }): Promise<number> =>
  sql.run(
    `UPDATE requests SET state = 'open', answered_by = NULL, answered_at = NULL
     WHERE id = :id AND answered_by = :by AND state IN ('accepted', 'declined')`,
    p,
  )

export const countOpenBy = async (sql: Sql, p: { memberId: string }): Promise<number> =>
  (
    await sql.one<{ n: number }>(
      `SELECT COUNT(*) AS n FROM requests WHERE made_by = :memberId AND state = 'open'`,
      p,
    )
  )?.n ?? 0
