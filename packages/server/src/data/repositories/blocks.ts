import type { TieMemory } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Time for a task beside its own, and batches: ties of the roles `block` and `batch`, with the place each has. */

export const batchTies = (
  sql: Sql,
  p: { id: string; date: string },
): Promise<{ id: string; a_mirror: string; memory: Json<TieMemory> }[]> =>
  sql.rows(
    `SELECT id, a_mirror, memory FROM ties WHERE b_mirror = :id AND role = 'batch' AND released IS NULL
         AND batch_date = :date`,
    p,
  )

/** On whatever date. */
export const heldByBatch = (sql: Sql, p: { id: string }): Promise<{ a_mirror: string }[]> =>
  sql.rows(`SELECT a_mirror FROM ties WHERE b_mirror = :id AND role = 'batch' AND released IS NULL`, p)

export const releaseFromBlock = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(`UPDATE ties SET released = 'block-removed' WHERE id = :id`, p)

export const addBatchTie = (
  sql: Sql,
  p: {
    tie: string
    workspaceId: string
    rule: string
    task: string
    id: string
    memory: Json<TieMemory>
    now: number
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO ties (id, workspace_id, rule_id, rule_version, role, a_mirror, b_mirror, base, memory, released, made_at)
           VALUES (:tie, :workspaceId, :rule, 1, 'batch', :task, :id, '{}', :memory, NULL, :now)`,
    p,
  )

export const tiesToBlock = (sql: Sql, p: { mirrorId: string }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT id FROM ties WHERE b_mirror = :mirrorId AND role <> 'mirror'
       AND (released IS NULL OR released = 'block-removed')`,
    p,
  )

export const lockBatchDates = (
  sql: Sql,
  p: { mirrorId: string },
): Promise<{ id: string; batch_date: string }[]> =>
  sql.rows(
    `SELECT id, batch_date FROM ties WHERE b_mirror = :mirrorId AND released IS NULL AND batch_date <> '' FOR UPDATE`,
    p,
  )

export const setTieOccurrence = (sql: Sql, p: { id: string; name: string }): Promise<number> =>
  sql.run(`UPDATE ties SET memory = JSON_SET(memory, '$.occurrence', :name) WHERE id = :id`, p)

export const lockBatchDatesOf = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ id: string; batch_date: string }[]> =>
  sql.rows(
    `SELECT id, batch_date FROM ties WHERE b_mirror IN (:ids) AND released IS NULL AND batch_date <> '' FOR UPDATE`,
    p,
  )

export const moveBatchTies = (sql: Sql, p: { mirrorId: string; madeId: string }): Promise<number> =>
  sql.run(`UPDATE ties SET b_mirror = :mirrorId WHERE b_mirror = :madeId AND role = 'batch'`, p)

export const countBlocks = (sql: Sql, p: { key: string }): Promise<{ n: number } | null> =>
  sql.one(`SELECT COUNT(*) AS n FROM ties WHERE a_mirror = :key AND role <> 'mirror' AND released IS NULL`, p)

export const handOverBlocks = (sql: Sql, p: { id: string; own: string }): Promise<number> =>
  sql.run(`UPDATE ties SET rule_id = :own WHERE rule_id = :id AND role <> 'mirror'`, p)
