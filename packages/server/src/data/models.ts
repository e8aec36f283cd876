import {
  DataTypes,
  type Model,
  type ModelAttributeColumnOptions,
  type ModelStatic,
  type Sequelize,
} from 'sequelize'
import type { Account, ServiceDescription } from '@loom/connectors'
import type { Json } from './json.ts'

/**
 * The tables that are simply read and written, as Sequelize knows them: columns, what may stand in them, and what
 * belongs to what. Tables that are locked, compared before they are set, or read often have no model; their statements
 * are written out in `repositories/`. A test compares the columns with those the migrations made.
 */

/** Epoch ms. */
type Instant = number

export interface WorkspaceColumns {
  id: string
  name: string
  zone: string
  change_seq: number
}
export interface MemberColumns {
  id: string
  workspace_id: string
  name: string
  email: string
  password_hash: string
  zone: string
  daily_summary: number
  summary_sent: string | null
  settings: Json<unknown>
}
export interface SessionColumns {
  token_hash: string
  workspace_id: string
  member_id: string
  expires_at: Instant
}
export interface ViewColumns {
  id: string
  workspace_id: string
  /** Null for one that the whole team has. */
  member_id: string | null
  made_by: string
  name: string
  icon: string
  body: Json<unknown>
  version: number
  place: number
}
export interface DoorColumns {
  id: string
  workspace_id: string
  member_id: string
  kind: 'mail' | 'capture'
  token_hash: string
  token: string
  made_at: Instant
  used_at: Instant | null
  uses: number
}
export interface ServiceColumns {
  id: string
  workspace_id: string
  name: string
  description: Json<ServiceDescription>
  made_at: Instant
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
export interface CsvMappingColumns {
  workspace_id: string
  headers: string
  mapping: Json<unknown>
}

type Of<C extends object> = ModelStatic<Model<C, Partial<C>>>
type Column = ModelAttributeColumnOptions

const text = (length: number, more: Partial<Column> = {}): Column => ({
  type: DataTypes.STRING(length),
  allowNull: false,
  validate: { len: [0, length] },
  ...more,
})
const long = (more: Partial<Column> = {}): Column => ({
  type: DataTypes.TEXT('long'),
  allowNull: false,
  ...more,
})
const number = (more: Partial<Column> = {}): Column => ({ type: DataTypes.BIGINT, allowNull: false, ...more })
const id = (): Column => text(36, { primaryKey: true })
const of = (): Column => text(36)
const hash = (more: Partial<Column> = {}): Column => text(64, { validate: { is: /^[0-9a-f]{64}$/ }, ...more })

function define(sequelize: Sequelize) {
  const table = <C extends object>(name: string, columns: Record<keyof C, Column>): Of<C> =>
    sequelize.define<Model<C, Partial<C>>>(name, columns as never, { tableName: name, timestamps: false })
  const models = {
    workspaces: table<WorkspaceColumns>('workspaces', {
      id: id(),
      name: text(200),
      zone: text(64),
      change_seq: number({ defaultValue: 0 }),
    }),
    members: table<MemberColumns>('members', {
      id: id(),
      workspace_id: of(),
      name: text(200),
      email: text(320, { validate: { isEmail: true, len: [3, 320] } }),
      password_hash: text(255),
      zone: text(64),
      daily_summary: number({ defaultValue: 0, validate: { isIn: [[0, 1]] } }),
      summary_sent: text(10, { allowNull: true, validate: { is: /^\d{4}-\d\d-\d\d$/ } }),
      settings: long({ defaultValue: '{}' }),
    }),
    sessions: table<SessionColumns>('sessions', {
      token_hash: hash({ primaryKey: true }),
      workspace_id: of(),
      member_id: of(),
      expires_at: number(),
    }),
    views: table<ViewColumns>('views', {
      id: id(),
      workspace_id: of(),
      member_id: text(36, { allowNull: true }),
      made_by: of(),
      name: text(100),
      icon: text(32),
      body: long(),
      version: number({ defaultValue: 1 }),
      place: number({ defaultValue: 0 }),
    }),
    doors: table<DoorColumns>('doors', {
      id: id(),
      workspace_id: of(),
      member_id: of(),
      kind: text(8, { validate: { isIn: [['mail', 'capture']] } }),
      token_hash: hash(),
      token: long(),
      made_at: number(),
      used_at: number({ allowNull: true }),
      uses: number({ defaultValue: 0 }),
    }),
    services: table<ServiceColumns>('services', {
      id: id(),
      workspace_id: of(),
      name: text(100),
      description: long(),
      made_at: number(),
    }),
    drafts: table<DraftColumns>('drafts', {
      id: id(),
      workspace_id: of(),
      member_id: of(),
      service: text(64),
      input: long(),
      consent: long({ allowNull: true }),
      consent_state: hash({ allowNull: true }),
      account: long({ allowNull: true }),
      expires_at: number(),
    }),
    csvMappings: table<CsvMappingColumns>('csv_mappings', {
      workspace_id: text(36, { primaryKey: true }),
      headers: hash({ primaryKey: true }),
      mapping: long(),
    }),
  }
  const { workspaces, members, sessions, views, doors, services, drafts, csvMappings } = models
  for (const owned of [members, views, services, csvMappings] as ModelStatic<Model>[])
    owned.belongsTo(workspaces, { as: 'workspace', foreignKey: 'workspace_id' })
  for (const owned of [sessions, doors, drafts] as ModelStatic<Model>[])
    owned.belongsTo(members, { as: 'member', foreignKey: 'member_id' })
  views.belongsTo(members, { as: 'maker', foreignKey: 'made_by' })
  return models
}
export type Models = ReturnType<typeof define>

const defined = new WeakMap<Sequelize, Models>()

export function modelsOf(sequelize: Sequelize): Models {
  const known = defined.get(sequelize) ?? define(sequelize)
  defined.set(sequelize, known)
  return known
}
