import type { FieldChange } from '@loom/core'
import type { Sql } from '../../data/database.ts'

/** One line of the journal: a write that was confirmed or refused, or a value that lost to a newer one. */
export interface JournalEntry {
  workspaceId: string
  at: number
  ruleId?: string | null
  memberId?: string | null
  tieId?: string | null
  mirrorId: string | null
  collectionId: string
  title: string
  op: 'create' | 'patch' | 'delete' | 'override'
  cause: string
  fields: FieldChange[]
  outcome: 'done' | 'refused' | 'overridden' | 'unknown'
  reason?: string | null
  tookMs?: number | null
  /** How long it was from the decision to the confirmation, ms. */
  waitedMs?: number | null
  /** The side of its rule that was written. */
  side?: 'a' | 'b' | null
  passId?: string | null
  removal?: boolean
  /** What was overwritten or deleted; kept for 90 days. */
  original?: string | null
}

const KEEP_MS = 90 * 86_400_000

export async function writeJournal(sql: Sql, e: JournalEntry): Promise<void> {
  await sql.insert(
    `INSERT INTO journal (workspace_id, at, rule_id, member_id, tie_id, mirror_id, collection_id, place, title, op,
       cause, fields, outcome, reason, took_ms, waited_ms, side, pass_id, removal)
     SELECT :workspaceId, :at, :ruleId, :memberId, :tieId, :mirrorId, :collectionId,
       (SELECT CONCAT(n.name, ' · ', c.name) FROM collections c JOIN connections n ON n.id = c.connection_id
        WHERE c.id = :collectionId),
       :title, :op, :cause, :fields, :outcome, :reason, :tookMs, :waitedMs, :side, :passId, :removal`,
    {
      ruleId: null,
      memberId: null,
      tieId: null,
      reason: null,
      tookMs: null,
      waitedMs: null,
      side: null,
      passId: null,
      ...e,
      removal: e.removal ? 1 : 0,
      fields: JSON.stringify(e.fields),
    },
  )
  if (!e.original) return
  await sql.insert(
    `INSERT INTO kept_originals (journal_id, workspace_id, original, until)
     VALUES (LAST_INSERT_ID(), :workspaceId, :original, :until)`,
    { workspaceId: e.workspaceId, original: e.original, until: e.at + KEEP_MS },
  )
}
