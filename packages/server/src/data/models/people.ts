import type { Json } from '../json.ts'
import type { Sequelize } from 'sequelize'
import { hash, id, long, number, oneOf, ref, text, yesNo, type Instant, tableOf } from './columns.ts'

/** The workspace, who is in it, and what they have open. */

export interface WorkspaceColumns {
  id: string
  name: string
  zone: string
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
  summary_trouble: string | null
  summary_failures: number
  summary_next_at: Instant
  settings: Json<unknown>
}

export interface SessionColumns {
  token_hash: string
  workspace_id: string
  member_id: string
  expires_at: Instant
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
    }),
    members: table<MemberColumns>('members', {
      id: id(),
      workspace_id: ref(),
      name: text(200),
      email: text(320, { validate: { isEmail: true, len: [3, 320] } }),
      password_hash: text(255),
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
      workspace_id: ref(),
      member_id: ref(),
      expires_at: number(),
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
