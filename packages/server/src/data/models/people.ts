import type { Role } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sequelize } from 'sequelize'
import { hash, id, long, number, oneOf, ref, text, yesNo, type Instant, tableOf } from './columns.ts'

/** Users, the workspaces they are members of, and what they have open. */

export interface WorkspaceColumns {
  id: string
  name: string
  zone: string
  deleted_at: Instant | null
  /** Whether it wants more than a password. */
  wants_second: number
}

export interface UserColumns {
  id: string
  email: string
  password_hash: string
  made_at: Instant
  /** For one-time codes, sealed. */
  totp_secret: string | null
  totp_at: Instant | null
  totp_step: number
}

export interface MemberColumns {
  id: string
  workspace_id: string
  user_id: string
  role: Role
  joined_at: Instant
  left_at: Instant | null
  name: string
  email: string
  zone: string
  daily_summary: number
  summary_sent: string | null
  summary_trouble: string | null
  summary_failures: number
  summary_next_at: Instant
  settings: Json<unknown>
}

export interface SessionColumns {
  token_hash: string
  id: string
  user_id: string
  workspace_id: string
  member_id: string
  /** What the browser says of itself. */
  device: string
  made_at: Instant
  used_at: Instant
  expires_at: Instant
  /** Whether it began by a passkey, or a code was given in it. */
  proven: number
}

/** What an address is for that was given to somebody to enter by. */
export interface EntryLinkColumns {
  token_hash: string
  id: string
  /** `passkey`: no address, but what a browser is asked to sign. */
  purpose: 'begin' | 'invite' | 'reset' | 'passkey'
  workspace_id: string | null
  user_id: string | null
  email: string | null
  role: Role | null
  made_by: string | null
  made_at: Instant
  expires_at: Instant
}

export interface PasskeyColumns {
  id: string
  credential_hash: string
  /** base64url, as its public key. */
  credential_id: string
  user_id: string
  public_key: string
  counter: number
  transports: string
  /** What its person calls it. */
  name: string
  made_at: Instant
  used_at: Instant | null
}

/** A named set of members. */
export interface GroupColumns {
  id: string
  workspace_id: string
  name: string
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

export function peopleModels(sequelize: Sequelize) {
  const table = tableOf(sequelize)
  return {
    workspaces: table<WorkspaceColumns>('workspaces', {
      id: id(),
      name: text(200),
      zone: text(64),
      deleted_at: number({ allowNull: true }),
      wants_second: yesNo({ defaultValue: 0 }),
    }),
    users: table<UserColumns>('users', {
      id: id(),
      email: text(320, { validate: { isEmail: true, len: [3, 320] } }),
      password_hash: text(255),
      made_at: number(),
      totp_secret: text(500, { allowNull: true }),
      totp_at: number({ allowNull: true }),
      totp_step: number({ defaultValue: 0 }),
    }),
    members: table<MemberColumns>('members', {
      id: id(),
      workspace_id: ref(),
      user_id: ref(),
      role: oneOf('coordinator', 'member', 'reader'),
      joined_at: number(),
      left_at: number({ allowNull: true }),
      name: text(200),
      email: text(320, { validate: { isEmail: true, len: [3, 320] } }),
      zone: text(64),
      daily_summary: yesNo({ defaultValue: 0 }),
      summary_trouble: text(200, { allowNull: true }),
      summary_failures: number({ defaultValue: 0 }),
      summary_next_at: number({ defaultValue: 0 }),
      summary_sent: text(10, { allowNull: true, validate: { is: /^\d{4}-\d\d-\d\d$/ } }),
      settings: long({ defaultValue: '{}' }),
    }),
    sessions: table<SessionColumns>('sessions', {
      token_hash: hash({ primaryKey: true }),
      id: ref(),
      user_id: ref(),
      workspace_id: ref(),
      member_id: ref(),
      device: text(300),
      made_at: number(),
      used_at: number(),
      expires_at: number(),
      proven: yesNo({ defaultValue: 0 }),
    }),
    passkeys: table<PasskeyColumns>('passkeys', {
      id: id(),
      credential_hash: hash(),
      credential_id: long(),
      user_id: ref(),
      public_key: long(),
      counter: number(),
      transports: text(200),
      name: text(100),
      made_at: number(),
      used_at: number({ allowNull: true }),
    }),
    entryLinks: table<EntryLinkColumns>('entry_links', {
      token_hash: hash({ primaryKey: true }),
      id: ref(),
      purpose: oneOf('begin', 'invite', 'reset', 'passkey'),
      workspace_id: ref({ allowNull: true }),
      user_id: ref({ allowNull: true }),
      email: text(320, { allowNull: true }),
      role: text(12, { allowNull: true, validate: { isIn: [['coordinator', 'member', 'reader']] } }),
      made_by: ref({ allowNull: true }),
      made_at: number(),
      expires_at: number(),
    }),
    groups: table<GroupColumns>('member_groups', {
      id: id(),
      workspace_id: ref(),
      name: text(100),
    }),
    doors: table<DoorColumns>('doors', {
      id: id(),
      workspace_id: ref(),
      member_id: ref(),
      kind: oneOf('mail', 'capture'),
      token_hash: hash(),
      token: long(),
      made_at: number(),
      used_at: number({ allowNull: true }),
      uses: number({ defaultValue: 0 }),
    }),
  }
}
