import {
  connect,
  type ConnectionInput,
  type Connector,
  ConnectionInput as Schema,
  type Outbound,
} from '@loom/connectors'
import type { Logger } from 'pino'
import { unseal } from '../access/secrets.ts'
import type { Database } from '../data/database.ts'
import type { ChangeFeed } from './changes.ts'

/** What the parts of the server share. */
export interface Context {
  db: Database
  feed: ChangeFeed
  http: Outbound
  /** Epoch ms, by the product's clock. */
  now: () => number
  secret: Buffer
  publicUrl: string
  log: Logger
}

export interface ConnectionRow {
  id: string
  workspace_id: string
  kind: string
  name: string
  address: string
  credentials: string
  account_name: string
  zone: string | null
  hook_secret: string | null
  state: 'ok' | 'slowed' | 'failing' | 'signed-out'
  trouble: string | null
  failing_since: number | null
  failures: number
  next_look_at: number
  last_ok_at: number | null
  workspace_zone: string
}

export const CONNECTIONS = `SELECT c.*, w.zone AS workspace_zone FROM connections c JOIN workspaces w ON w.id = c.workspace_id`

export function inputOf(row: ConnectionRow, secret: Buffer): ConnectionInput {
  return Schema.parse({ kind: row.kind, address: row.address, credentials: unseal(row.credentials, secret) })
}

export function connectorOf(ctx: Context, row: ConnectionRow): Connector {
  return connect(inputOf(row, ctx.secret), { http: ctx.http, now: ctx.now, zone: row.zone })
}
