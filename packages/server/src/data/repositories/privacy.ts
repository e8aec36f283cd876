import type { Sql } from '../database.ts'
import { chunks } from '../chunks.ts'

/** How private single items are, whatever has become of them. */

/** For a query of mirrors `m` and their own layer `o`: 0 open, 1 by its service's word, 2 marked here. */
export const PRIVACY = `IF(o.private = 1, 2, IF(m.kind = 'event' AND JSON_VALUE(m.item, '$.class') IN ('private', 'confidential'), 1, 0))`

/** For a query of mirrors `m`: whether it is a task that is given to the member `:me`. */
export const GIVEN = `(m.kind = 'task' AND EXISTS (SELECT 1 FROM people p WHERE p.connection_id = m.connection_id
  AND p.member_id = :me AND JSON_CONTAINS(m.item, JSON_QUOTE(p.remote_id), '$.assignees')))`

export interface PrivacyRow {
  id: string
  collection_id: string
  privacy: 0 | 1 | 2
}

export async function privacyOfMirrors(
  sql: Sql,
  p: { workspaceId: string; ids: readonly string[] },
): Promise<PrivacyRow[]> {
  const found: PrivacyRow[] = []
  for (const part of chunks(p.ids))
    found.push(
      ...(await sql.rows<PrivacyRow>(
        `SELECT m.id, m.collection_id, ${PRIVACY} AS privacy FROM mirrors m
           LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id)
         WHERE m.workspace_id = :workspaceId AND m.id IN (:part)`,
        { workspaceId: p.workspaceId, part },
      )),
    )
  return found
}
