import type { ServiceDescription } from '@loom/connectors'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

export const servicesOf = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ id: string; description: Json<ServiceDescription> }[]> =>
  sql.rows('SELECT id, description FROM services WHERE workspace_id = :workspaceId ORDER BY name', p)

export const serviceById = (
  sql: Sql,
  p: { id: string; workspaceId: string },
): Promise<{ description: Json<ServiceDescription> } | null> =>
  sql.one('SELECT description FROM services WHERE id = :id AND workspace_id = :workspaceId', p)

export const addService = (
  sql: Sql,
  p: { id: string; workspaceId: string; name: string; text: string; now: number },
): Promise<void> =>
  sql.insert(
    'INSERT INTO services (id, workspace_id, name, description, made_at) VALUES (:id, :workspaceId, :name, :text, :now)',
    p,
  )

export const deleteService = (sql: Sql, p: { id: string; workspaceId: string }): Promise<number> =>
  sql.run('DELETE FROM services WHERE id = :id AND workspace_id = :workspaceId', p)
