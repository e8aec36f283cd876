import type { Json } from '../json.ts'
import type { Sequelize } from 'sequelize'
import { id, long, number, ref, text, yesNo, type Instant, tableOf } from './columns.ts'

/** Rules and their versions. */

export interface RuleColumns {
  id: string
  workspace_id: string
  a_collection: string
  b_collection: string
  settings: Json<unknown>
  state: 'on' | 'paused'
  version: number
  enabled_at: Instant
  /** What arrived before is new to it on no side. */
  new_since: Instant
  notices: Json<string[]>
  name: string | null
  place: number
  /** 1 for the rule that blocks and batches made by hand follow their tasks by. */
  own: number
}

/** How far a rule is planned; changed with each pass, so nothing refers to it. */
export interface RuleProgressColumns {
  rule_id: string
  planned_seq: number
  last_pass_at: Instant | null
  /** When it was last planned anew, by the product's clock. */
  anew_at: Instant
  /** Why it could not be planned, how often in a row, and when it is tried again. */
  trouble: string | null
  failures: number
  next_pass_at: Instant
}

/** What a rule said, each time it was saved. */
export interface RuleVersionColumns {
  rule_id: string
  version: number
  workspace_id: string
  settings: Json<unknown>
  saved_at: Instant
  member_id: string | null
}

export function ruleModels(sequelize: Sequelize) {
  const table = tableOf(sequelize)
  return {
    rules: table<RuleColumns>('rules', {
      id: id(),
      workspace_id: ref(),
      a_collection: ref(),
      b_collection: ref(),
      settings: long(),
      state: text(8),
      version: number(),
      enabled_at: number(),
      new_since: number({ defaultValue: 0 }),
      notices: long(),
      name: text(200, { allowNull: true }),
      place: number({ defaultValue: 0 }),
      own: yesNo({ defaultValue: 0 }),
    }),
    ruleProgress: table<RuleProgressColumns>('rule_progress', {
      rule_id: ref({ primaryKey: true }),
      planned_seq: number({ defaultValue: -1 }),
      last_pass_at: number({ allowNull: true }),
      anew_at: number({ defaultValue: 0 }),
      trouble: long({ allowNull: true }),
      failures: number({ defaultValue: 0 }),
      next_pass_at: number({ defaultValue: 0 }),
    }),
    ruleVersions: table<RuleVersionColumns>('rule_versions', {
      rule_id: ref({ primaryKey: true }),
      version: number({ primaryKey: true }),
      workspace_id: ref(),
      settings: long(),
      saved_at: number(),
      member_id: ref({ allowNull: true }),
    }),
  }
}
