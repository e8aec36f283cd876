import type { ServiceDescription } from '@loom/connectors'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'
import type { ServiceColumns } from '../models/settings.ts'

/** Services that somebody has described for this workspace. */

export const servicesOf = async (sql: Sql, p: { workspaceId: string }): Promise<ServiceColumns[]> =>
  (await sql.models.services.findAll({
    where: { workspace_id: p.workspaceId },
    order: ['name'],
    ...sql.within,
  })) as unknown as ServiceColumns[]

export const serviceById = async (
  sql: Sql,
  p: { id: string; workspaceId: string },
): Promise<ServiceColumns | null> =>
  (await sql.models.services.findOne({
    where: { id: p.id, workspace_id: p.workspaceId },
    ...sql.within,
  })) as unknown as ServiceColumns | null

export async function addService(
  sql: Sql,
  p: { id: string; workspaceId: string; name: string; text: Json<ServiceDescription>; now: number },
): Promise<void> {
  const { id, workspaceId, name, text, now } = p
  await sql.models.services.create(
    { id, workspace_id: workspaceId, name, description: text, made_at: now },
    sql.within,
  )
}

export const deleteService = (sql: Sql, p: { id: string; workspaceId: string }): Promise<number> =>
  sql.models.services.destroy({
    where: { id: p.id, workspace_id: p.workspaceId },
    transaction: sql.within.transaction,
  })
