import type { FieldChange } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { addEntry, keepOriginal } from '../../data/repositories/journal.ts'
import { json } from '../../data/json.ts'

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
  /** At least so private, whatever its item says: 0 open, 1 by its service's word, 2 marked here. */
  privacy?: 0 | 1 | 2
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
  /** The overwritten or deleted original; kept for 90 days. */
  original?: string | null
}

const KEEP_MS = 90 * 86_400_000

export async function writeJournal(sql: Sql, e: JournalEntry): Promise<void> {
  await addEntry(sql, {
    ruleId: null,
    memberId: null,
    tieId: null,
    reason: null,
    tookMs: null,
    waitedMs: null,
    side: null,
    passId: null,
    privacy: 0,
    ...e,
    removal: e.removal ? 1 : 0,
    fields: json(e.fields),
  })
  if (!e.original) return
  await keepOriginal(sql, { workspaceId: e.workspaceId, original: e.original, until: e.at + KEEP_MS })
}
