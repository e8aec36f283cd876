import type { Connector } from '@loom/connectors'
import type { Context } from '../../context/context.ts'
import type { ScopeFilter } from './scope-filter.ts'
import type { Lease } from '../../data/leases.ts'
import type { ConnectionRow } from '../../data/repositories/connections.ts'

/** What one look at a connection is about. */
export interface Look {
  ctx: Context
  row: ConnectionRow
  connector: Connector
  lease: Lease
  scopeFilter: ScopeFilter
  /** When it began, epoch ms. */
  from: number
  /** Whether anything of the connection was held by then: of a first import, nothing can have moved. */
  heldBefore: boolean
}
