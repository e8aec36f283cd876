import { arrivingIn, arrivedElsewhere, dropArriving, admit } from '../../data/repositories/reading.ts'
import { judgeAbsence } from './absence.ts'
import type { Look } from './look.ts'

import type { CollectionRow } from '../../data/repositories/collections.ts'

/**
 * A new item under a known uid may have come from another list that was not read yet. Now that all lists are read,
 * a moved item is at its new place. Everything else is new and is planned.
 */
export async function admitArrivals(look: Look, anywhere: CollectionRow): Promise<boolean> {
  const { ctx, row, connector, lease } = look
  const where = { workspace: row.workspace_id, connection: row.id }
  const arriving = async () => arrivingIn(ctx.db, where)
  if ((await arriving()).length === 0) return false
  if (connector.capabilities.listing === 'may-lag') {
    // Such a listing may still show what has left: what bears the same uid, and the new one itself.
    const siblings = await arrivedElsewhere(ctx.db, where)
    for (const s of siblings) await judgeAbsence(look, s.remote_id, anywhere, true)
    for (const { id, remote_id: remoteId, collection } of await arriving())
      if ((await connector.read(collection, remoteId)).kind === 'absent') await dropArriving(ctx.db, { id })
  }
  const ids = (await arriving()).map(a => a.id)
  if (ids.length === 0) return true
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    await admit(sql, { ids })
    sql.tell(row.workspace_id, { topics: ['cloth', 'connections'], exact: true }, ids)
  })
  return true
}
