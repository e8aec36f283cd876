import type { Sql } from '../database.ts'

/** Whether the database answers. */

export const ping = (sql: Sql): Promise<unknown> => sql.one('SELECT 1 AS ok')
