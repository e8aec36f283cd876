import {
  connect,
  type ConnectionInput,
  type Connector,
  ConnectionInput as Schema,
  type Meanings,
  type Outbound,
  Pace,
  Patience,
  ServiceDescription,
  shippedServices,
  within,
} from '@loom/connectors'
import { Meaning, Scope } from '@loom/core'
import type { Logger } from 'pino'
import { seal, type Secrets, unseal } from '../access/secrets.ts'
import type { Database } from '../data/database.ts'
import type { OutgoingMail } from '../mail/mailer.ts'
import type { Background } from '../work/background.ts'
import { ownConnector } from '../own/connector.ts'
import type { ChangeFeed } from '../data/change-feed.ts'
import { meaningsOfCollections } from '../data/repositories/collections.ts'
import { putCredentials, OWN, type ConnectionRow } from '../data/repositories/connections.ts'
import { parsed } from '../data/json.ts'

/** The usual limit of a request. */
export const REQUEST_MS = 4_000

interface InUse {
  state: string
  connector: Connector
  pace: Pace | null
  patience: Patience
  /** What the service allows, where that is known. */
  limits: ServiceDescription['limits'] | null
}

/** What the parts of the server share. */
export interface Context {
  db: Database
  feed: ChangeFeed
  http: Outbound
  /** Epoch ms, by the product's clock. */
  now: () => number
  secret: Secrets
  publicUrl: string
  /** The server that takes our mail; null where none is set. */
  outgoingMail: OutgoingMail | null
  /** The part after the @ of members' intake addresses. */
  mailHost: string
  log: Logger
  /** Starts background work. */
  background: Background
  /** Connectors in use, each for one state of its connection's settings. */
  connectors: Map<string, InUse>
  /** Items that notifications named since the last look. */
  hints: Map<string, Set<string>>
  /** Tied items that a listing omitted, and since when the other accounts are asked about them. */
  missed: Map<string, number>
  /** For tests: caches are compared with the database at each use. */
  checks: boolean
}

export const scopeOf = (row: Pick<ConnectionRow, 'scope'>): Scope => Scope.parse(parsed(row.scope))

/** Connections of before there were descriptions are to the first that shipped. */
export function descriptionOf(row: ConnectionRow): ServiceDescription {
  if (row.description) return ServiceDescription.parse(parsed(row.description))
  const first = shippedServices().find(s => s.id === 'bench-list')
  if (!first) throw new Error('no description ships for connections of before there were any')
  return first.description
}

export function inputOf(row: ConnectionRow, secret: Secrets): ConnectionInput {
  const { kind, address } = row
  const description = kind === 'http-json' ? { description: descriptionOf(row) } : {}
  return Schema.parse({ kind, address, ...description, credentials: unseal(row.credentials, secret) })
}

async function meaningsOf(ctx: Context, connectionId: string): Promise<Meanings> {
  const rows = await meaningsOfCollections(ctx.db, { connectionId })
  return Object.fromEntries(rows.map(r => [r.remote_id, Meaning.parse(parsed(r.meaning))]))
}

/** The connector of a connection as it is set up now; the same one until that changes. */
export async function connectorOf(ctx: Context, row: ConnectionRow): Promise<Connector> {
  if (row.kind === OWN) return within(ownConnector(ctx.db, row.workspace_id, ctx.now))
  const state = `${row.settings_version} ${row.zone ?? ''} ${row.credentials}`
  const known = ctx.connectors.get(row.id)
  if (known?.state === state) return known.connector
  const input = inputOf(row, ctx.secret)
  const limits = input.kind === 'http-json' ? input.description.limits : undefined
  // The service counts requests whatever our settings: the pace outlives a change of them.
  const pace = known?.pace ?? (limits ? new Pace(limits.requests, limits.perSeconds) : null)
  const patience = known?.patience ?? new Patience(REQUEST_MS)
  const connector = connect(input, {
    http: patience.through(ctx.http),
    now: ctx.now,
    zone: row.zone,
    meanings: await meaningsOf(ctx, row.id),
    pace,
    onTokens: async tokens => {
      const credentials = seal({ ...input.credentials, tokens }, ctx.secret)
      await putCredentials(ctx.db, {
        id: row.id,
        credentials,
      })
    },
  })
  ctx.connectors.set(row.id, { state, connector, pace, patience, limits: limits ?? null })
  return connector
}

/** What the service of a connection in use allows; null where that is not known. */
export const limitsOf = (
  ctx: Context,
  connectionId: string,
): { requests: number; perSeconds: number } | null => ctx.connectors.get(connectionId)?.limits ?? null

/** Where the mirrors of a connection belong. */
export const placeOf = (row: ConnectionRow) => ({
  workspaceId: row.workspace_id,
  connectionId: row.id,
  zone: row.workspace_zone,
})
