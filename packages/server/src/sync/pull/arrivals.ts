import { judgeAbsence } from './absence.ts'
import type { CollectionRow } from './fold.ts'
import type { Look } from './look.ts'

/**
 * What is new in a list under a uid that we know may have come from another list, which was not read yet when it was
 * seen. Now that all were read, what has moved is where it is; the rest is new, and is planned with.
 */
export async function admitArrivals(look: Look, anywhere: CollectionRow): Promise<boolean> {
  const { ctx, row, connector, lease } = look
  const where = { workspace: row.workspace_id, connection: row.id }
  const arriving = async () =>
    ctx.db.rows<{ id: string; remote_id: string; collection: string }>(
      `SELECT m.id, m.remote_id, c.remote_id AS collection FROM mirrors m JOIN collections c ON c.id = m.collection_id
       WHERE m.workspace_id = :workspace AND m.connection_id = :connection AND m.presence = 'arriving'`,
      where,
    )
  if ((await arriving()).length === 0) return false
  if (connector.capabilities.listing === 'may-lag') {
    // Such a listing may still show what has left: what bears the same uid, and the new one itself.
    const siblings = await ctx.db.rows<{ remote_id: string }>(
      `SELECT DISTINCT s.remote_id FROM mirrors m JOIN mirrors s ON s.connection_id = m.connection_id AND s.uid = m.uid
       WHERE m.workspace_id = :workspace AND m.connection_id = :connection AND m.presence = 'arriving'
         AND s.presence = 'present' AND s.series_id IS NULL`,
      where,
    )
    for (const s of siblings) await judgeAbsence(look, s.remote_id, anywhere, true)
    for (const { id, remote_id: remoteId, collection } of await arriving())
      if ((await connector.read(collection, remoteId)).kind === 'absent')
        await ctx.db.run(`DELETE FROM mirrors WHERE id = :id AND presence = 'arriving'`, { id })
  }
  const ids = (await arriving()).map(a => a.id)
  if (ids.length === 0) return true
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    await sql.run(
      `UPDATE mirrors SET presence = 'present', open_task =
         IF(kind = 'task' AND JSON_VALUE(item, '$.status') IN ('needs-action', 'in-process'), 1, 0)
       WHERE id IN (:ids) AND presence = 'arriving'`,
      { ids },
    )
    sql.tell(row.workspace_id, { topics: ['cloth', 'connections'], exact: true }, ids)
  })
  return true
}
