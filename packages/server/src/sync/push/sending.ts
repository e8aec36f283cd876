import type { Connector } from '@loom/connectors'
import type { Context } from '../../context/context.ts'
import type { Lease } from '../../data/leases.ts'
import type { ConnectionRow } from '../../data/repositories/connections.ts'

/** What sending a connection's intents is about, from the first to the last. */
export interface Sending {
  ctx: Context
  conn: ConnectionRow
  connector: Connector
  lease: Lease
}
