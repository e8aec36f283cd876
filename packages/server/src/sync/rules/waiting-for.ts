import type { Asker } from '../../access/sight.ts'
import type { Sql } from '../../data/database.ts'
import { brakedOverview } from '../../data/repositories/braked.ts'
import { openConflicts } from '../../data/repositories/conflicts.ts'
import { seenWhole } from '../../access/rights.ts'
import { rulesToChange } from './rule-rights.ts'

/** What waits for a decision in rules that somebody may change, of items that they may see whole. */

type Who = Asker & { workspaceId: string }

export async function conflictsFor(sql: Sql, who: Who) {
  const all = await openConflicts(sql, { workspaceId: who.workspaceId })
  if (all.length === 0) return []
  const mine = await rulesToChange(sql, who)
  return seenWhole(
    sql,
    who,
    all.filter(c => mine.has(c.ruleId)),
    c => [c.item, c.other],
  )
}

export async function brakedFor(sql: Sql, who: Who) {
  const all = await brakedOverview(sql, { workspaceId: who.workspaceId })
  if (all.length === 0) return []
  const mine = await rulesToChange(sql, who)
  return seenWhole(
    sql,
    who,
    all.filter(b => mine.has(b.ruleId)),
    b => [b.mirror],
  )
}
