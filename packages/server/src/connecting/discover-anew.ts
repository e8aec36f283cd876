import type { Connector } from '@loom/connectors'
import { type Context, scopeOf } from '../context/context.ts'
import { DYES, putCollection, putPeople } from './connect-service.ts'
import { markDiscovered, setSubject, type ConnectionRow } from '../data/repositories/connections.ts'
import { collectionsFound } from '../data/repositories/collections.ts'

/** Lists and people come and go at a service: it is asked for them anew after this long. */
export const DISCOVER_EVERY_MS = 600_000

/**
 * Asks a service for its present lists, people and statuses. New lists take part if the connection's settings say
 * so. Returns the names of the new lists. Throws ServiceError.
 */
export async function discoverAnew(
  ctx: Context,
  row: ConnectionRow,
  connector: Connector,
): Promise<string[]> {
  // An attempt counts as well: a service that cannot say is not asked again with every look.
  await markDiscovered(ctx.db, {
    id: row.id,
    now: Date.now(),
  })
  const account = await connector.discover()
  if (row.account_subject === null) await setSubject(ctx.db, { id: row.id, subject: account.subject })
  const before = await collectionsFound(ctx.db, { id: row.id })
  const known = new Map(before.map(k => [k.remote_id, k]))
  const { future } = scopeOf(row)
  const fresh = account.collections.filter(k => !known.has(k.remoteId))
  const changed = account.collections.some(k => {
    const was = known.get(k.remoteId)
    return was?.name !== k.name || was.terms !== JSON.stringify(k.terms) || was.why_not !== k.whyNot
  })
  await ctx.db.commit(async sql => {
    for (const [i, k] of account.collections.entries())
      await putCollection(sql, { workspaceId: row.workspace_id, connectionId: row.id }, k, {
        // Parts of a list, told apart by a column, come with the whole.
        takesPart: future && !k.remoteId.includes('#'),
        dye: DYES[(known.size + i) % DYES.length] ?? '#44566C',
        meaning: null,
        colleagues: 'nothing',
      })
    await putPeople(sql, row.workspace_id, row.id, account, {})
    if (changed) sql.tell(row.workspace_id, { topics: ['connections'], connection: row.id })
  })
  return fresh.map(k => k.name)
}
