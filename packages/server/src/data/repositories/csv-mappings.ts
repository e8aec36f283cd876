import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

export const mappingFor = (
  sql: Sql,
  p: { workspaceId: string; key: string },
): Promise<{ mapping: Json<unknown> } | null> =>
  sql.one('SELECT mapping FROM csv_mappings WHERE workspace_id = :workspaceId AND headers = :key', p)

export const putMapping = (
  sql: Sql,
  p: { workspaceId: string; key: string; mapping: Json<unknown> },
): Promise<void> =>
  sql.insert(
    `INSERT INTO csv_mappings (workspace_id, headers, mapping) VALUES (:workspaceId, :key, :mapping)
     ON DUPLICATE KEY UPDATE mapping = VALUES(mapping)`,
    p,
  )
