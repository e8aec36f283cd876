import type { Account, ServiceDescription, Terms } from '@loom/connectors'
import type { Json } from '../json.ts'
import type { Sequelize } from 'sequelize'
import { hash, id, long, number, oneOf, ref, text, yesNo, type Instant, tableOf } from './columns.ts'

/** Connections and what is found behind them; drafts are those that are being made. */

export interface ConnectionColumns {
  id: string
  workspace_id: string
  kind: string
  name: string
  address: string
  /** Sealed. */
  credentials: string
  account_name: string
  /** Who it is at its service; null until the service was asked. */
  account_subject: string | null
  zone: string | null
  /** Sealed. */
  hook_secret: string | null
  state: 'ok' | 'slowed' | 'failing' | 'signed-out'
  trouble: string | null
  failing_since: Instant | null
  failures: number
  description: Json<ServiceDescription> | null
  scope: Json<unknown>
  owner_id: string | null
  paused: number
  settings_version: number
  subscribed_at: Instant | null
  discovered_at: Instant
  compared_at: Instant
  /** The version of the boundary that its items were read by. */
  read_by: number
}

/** When a connection is looked at next; changed with each look, so nothing refers to it. */
export interface LookTimeColumns {
  connection_id: string
  next_look_at: Instant
  look_every_ms: number
  last_ok_at: Instant | null
}

export interface CollectionColumns {
  id: string
  workspace_id: string
  connection_id: string
  remote_id: string
  name: string
  dye: string
  item_kind: 'task' | 'event'
  writable: number
  takes_part: number
  sync_token: string | null
  synced_at: Instant | null
  /** When its first complete reading under the present settings ended. */
  baseline_at: Instant | null
  trouble: string | null
  terms: Json<Terms>
  meaning: Json<unknown> | null
  parent_remote_id: string | null
  why_not: string | null
  unknown_statuses: Json<string[]>
  import_cursor: string | null
  import_done: number
  import_total: number | null
  /** Whose it is, where that is not whoever its connection belongs to. */
  owner_id: string | null
  /** From before there were levels, and its owner has not chosen since. */
  as_before: number
}

/** Somebody as a service knows them. */
export interface PersonColumns {
  connection_id: string
  remote_id: string
  workspace_id: string
  name: string
  email: string | null
  is_me: number
  member_id: string | null
}

/** An item that a person picked by hand. */
export interface PickColumns {
  connection_id: string
  remote_id: string
  workspace_id: string
}

export interface DraftColumns {
  id: string
  workspace_id: string
  member_id: string
  service: string
  input: string
  consent: string | null
  consent_state: string | null
  account: Json<Account> | null
  expires_at: Instant
}

export function connectionModels(sequelize: Sequelize) {
  const table = tableOf(sequelize)
  return {
    connections: table<ConnectionColumns>('connections', {
      id: id(),
      workspace_id: ref(),
      kind: text(32),
      name: text(200),
      address: long(),
      credentials: long(),
      account_name: text(200),
      account_subject: long({ allowNull: true }),
      zone: text(64, { allowNull: true }),
      hook_secret: long({ allowNull: true }),
      state: { ...oneOf('ok', 'slowed', 'failing', 'signed-out'), defaultValue: 'ok' },
      trouble: long({ allowNull: true }),
      failing_since: number({ allowNull: true }),
      failures: number({ defaultValue: 0 }),
      description: long({ allowNull: true }),
      scope: long(),
      owner_id: ref({ allowNull: true }),
      paused: yesNo({ defaultValue: 0 }),
      settings_version: number({ defaultValue: 0 }),
      subscribed_at: number({ allowNull: true }),
      discovered_at: number({ defaultValue: 0 }),
      compared_at: number({ defaultValue: () => Date.now() }),
      read_by: number({ defaultValue: 0 }),
    }),
    lookTimes: table<LookTimeColumns>('look_times', {
      connection_id: ref({ primaryKey: true }),
      next_look_at: number({ defaultValue: 0 }),
      look_every_ms: number({ defaultValue: 1000 }),
      last_ok_at: number({ allowNull: true }),
    }),
    collections: table<CollectionColumns>('collections', {
      id: id(),
      workspace_id: ref(),
      connection_id: ref(),
      remote_id: text(500),
      name: text(200),
      dye: text(16),
      item_kind: oneOf('task', 'event'),
      writable: yesNo(),
      takes_part: yesNo(),
      sync_token: long({ allowNull: true }),
      synced_at: number({ allowNull: true }),
      baseline_at: number({ allowNull: true }),
      trouble: long({ allowNull: true }),
      terms: long(),
      meaning: long({ allowNull: true }),
      parent_remote_id: text(500, { allowNull: true }),
      why_not: long({ allowNull: true }),
      unknown_statuses: long({ defaultValue: '[]' }),
      import_cursor: long({ allowNull: true }),
      import_done: number({ defaultValue: 0 }),
      import_total: number({ allowNull: true }),
      owner_id: ref({ allowNull: true }),
      as_before: yesNo({ defaultValue: 0 }),
    }),
    people: table<PersonColumns>('people', {
      connection_id: ref({ primaryKey: true }),
      remote_id: text(255, { primaryKey: true }),
      workspace_id: ref(),
      name: text(200),
      email: text(320, { allowNull: true }),
      is_me: yesNo(),
      member_id: ref({ allowNull: true }),
    }),
    picks: table<PickColumns>('picks', {
      connection_id: ref({ primaryKey: true }),
      remote_id: text(500, { primaryKey: true }),
      workspace_id: ref(),
    }),
    drafts: table<DraftColumns>('drafts', {
      id: id(),
      workspace_id: ref(),
      member_id: ref(),
      service: text(64),
      input: long(),
      consent: long({ allowNull: true }),
      consent_state: hash({ allowNull: true }),
      account: long({ allowNull: true }),
      expires_at: number(),
    }),
  }
}
