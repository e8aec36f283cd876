import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'
import type { CsvMappingColumns } from '../models/settings.ts'

/** Which column of a table means what, as it was said for a table with these headers. */

/** What the columns of a file mean, remembered by their headings. */
export const mappingFor = async (
  sql: Sql,
  p: { workspaceId: string; key: string },
): Promise<CsvMappingColumns | null> =>
  (await sql.models.csvMappings.findOne({
    where: { workspace_id: p.workspaceId, headers: p.key },
    ...sql.within,
  })) as unknown as CsvMappingColumns | null

export async function putMapping(
  sql: Sql,
  p: { workspaceId: string; key: string; mapping: Json<unknown> },
): Promise<void> {
  await sql.models.csvMappings.upsert(
    { workspace_id: p.workspaceId, headers: p.key, mapping: p.mapping },
    { transaction: sql.within.transaction },
  )
}
