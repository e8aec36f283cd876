import type { Sql } from '../database.ts'

/** What is forgotten after a while, some rows at a time. */

export const dropPastIntents = (sql: Sql, p: { week: number }): Promise<number> =>
  sql.run(`DELETE FROM intents WHERE state NOT IN ('open', 'waiting') AND made_at < :week`, p)

export const dropPastLooks = (sql: Sql, p: { day: number }): Promise<number> =>
  sql.run('DELETE FROM looks WHERE slot < :day', p)

export const dropPastDrafts = (sql: Sql, p: { now: number }): Promise<number> =>
  sql.run('DELETE FROM drafts WHERE expires_at < :now', p)

export const dropPastOriginals = (sql: Sql, p: { now: number }): Promise<number> =>
  sql.run('DELETE FROM kept_originals WHERE until < :now', p)

export const dropPastSessions = (sql: Sql, p: { now: number }): Promise<number> =>
  sql.run('DELETE FROM sessions WHERE expires_at < :now', p)

/** Connections of those who left before: what came by them has been hidden since. */
export const connectionsLeft = (
  sql: Sql,
  p: { before: number },
): Promise<{ id: string; workspace_id: string }[]> =>
  sql.rows(
    `SELECT c.id, c.workspace_id FROM connections c JOIN members m ON m.id = c.owner_id
     WHERE m.left_at < :before AND c.kind <> 'own'`,
    p,
  )

export const dropPastAnswers = (sql: Sql, p: { day: number }): Promise<number> =>
  sql.run('DELETE FROM answered WHERE made_at < :day', p)

export const dropPastChanges = (sql: Sql): Promise<number> =>
  sql.run(
    `DELETE c FROM changes c JOIN change_counters w ON w.workspace_id = c.workspace_id WHERE c.seq < w.change_seq - 20000`,
  )
