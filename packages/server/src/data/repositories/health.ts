import type { Sql } from '../database.ts'

export const ping = (sql: Sql): Promise<unknown> => sql.one('SELECT 1 AS ok')
