import type { Sql } from '../database.ts'

/** What each look at a connection brought. */

export const addLook = (
  sql: Sql,
  p: { id: string; slot: number; items: number; writes: number; error: number; took: number; delay: number },
): Promise<void> =>
  sql.insert(
    `INSERT INTO looks (connection_id, slot, workspace_id, passes, items, writes, errors, slowest_ms, delay_ms)
     SELECT id, :slot, workspace_id, 1, :items, :writes, :error, :took, :delay FROM connections WHERE id = :id
     ON DUPLICATE KEY UPDATE passes = passes + 1, items = items + VALUES(items), writes = writes + VALUES(writes),
       errors = errors + VALUES(errors), slowest_ms = GREATEST(slowest_ms, VALUES(slowest_ms)),
       delay_ms = GREATEST(delay_ms, VALUES(delay_ms))`,
    p,
  )

export const addLooks = (sql: Sql, p: { rows: readonly (readonly (string | number)[])[] }): Promise<void> =>
  sql.insert(
    `INSERT INTO looks (connection_id, slot, workspace_id, passes, items, writes, errors, slowest_ms, delay_ms)
     VALUES :rows`,
    p,
  )

export const looksSince = (
  sql: Sql,
  p: { id: string; since: number },
): Promise<
  {
    slot: number
    passes: number
    items: number
    writes: number
    errors: number
    slowestMs: number
    delayMs: number
  }[]
> =>
  sql.rows(
    `SELECT slot, passes, items, writes, errors, slowest_ms AS slowestMs, delay_ms AS delayMs FROM looks
         WHERE connection_id = :id AND slot > :since ORDER BY slot`,
    p,
  )
