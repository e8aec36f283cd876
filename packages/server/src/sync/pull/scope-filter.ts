import type { RemoteItem } from '@loom/connectors'
import { entry, type Mirror, type Scope, type Task, trimmed } from '@loom/core'
import { connectorOf, type Context, scopeOf } from '../../context/context.ts'
import { meAtService, picksOf } from '../../data/repositories/people.ts'
import type { ConnectionRow } from '../../data/repositories/connections.ts'

/** What of a service comes in, and how it reads once it does. Everything seen of a connection passes here. */
export interface ScopeFilter {
  scope: Scope
  /** The service's clock minus ours, ms. */
  skew: number
  judge(item: RemoteItem, held: Mirror | null): { entry: 'in' | 'out' | 'leaves'; item: RemoteItem }
}

export async function scopeFilterOf(ctx: Context, row: ConnectionRow): Promise<ScopeFilter> {
  const scope = scopeOf(row)
  const [me, picked, connector] = await Promise.all([
    meAtService(ctx.db, { id: row.id }),
    picksOf(ctx.db, { id: row.id }),
    connectorOf(ctx, row),
  ])
  const picks = new Set(picked.map(p => p.remote_id))
  const terms = { me: me?.remote_id ?? null, now: ctx.now(), zone: row.workspace_zone }
  return {
    scope,
    skew: connector.skew(),
    judge(seen, held) {
      const item = { ...seen, item: trimmed(scope, withKnownStatus(seen, held)) }
      const isIn = held !== null && (held.presence === 'present' || held.presence === 'missing')
      return { item, entry: entry(scope, item.item, { ...terms, picked: picks.has(seen.remoteId), isIn }) }
    },
  }
}

/** A status without a meaning changes nothing: what we held stays. */
function withKnownStatus(seen: RemoteItem, held: Mirror | null): RemoteItem['item'] {
  const { item } = seen
  if (!seen.unknownStatus || item.kind !== 'task' || held?.item.kind !== 'task') return item
  return { ...item, status: held.item.status } satisfies Task
}
