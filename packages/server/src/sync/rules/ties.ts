import { type EndedTie, type Rule, settingsOf, SIDES, type Tie } from '@loom/core'
import { chunks } from '../../data/chunks.ts'
import type { Sql } from '../../data/database.ts'
import { ruleAt } from './rules.ts'
import type { RuleRow } from '../../data/repositories/rules.ts'
import {
  type TieRow,
  type EndedRow,
  endedTiesOf,
  endedTiesOn,
  soughtTiesOf,
} from '../../data/repositories/ties.ts'
import { parsed } from '../../data/json.ts'

/** Ties as they are kept: what they say, which rule they agreed under, and which of them have ended. */

export const tieOf = (row: TieRow): Tie => ({
  id: row.id,
  role: row.role,
  a: row.a_mirror,
  b: row.b_mirror,
  base: parsed(row.base),
  memory: parsed(row.memory),
  released: row.released,
})

/** Of a tie: the rule under which its two sides last agreed, where it has been edited since. */
export async function earlierRules(
  sql: Sql,
  rule: Rule,
  row: RuleRow | null,
  ties: readonly TieRow[],
): Promise<(tie: TieRow) => { was?: Rule }> {
  const settings = JSON.stringify(rule.settings)
  const isAsKept = row !== null && JSON.stringify(settingsOf(parsed(row.settings))) === settings
  const earlier = new Map<number, Rule>()
  for (const version of new Set(ties.map(t => t.rule_version))) {
    if (!row || (version === row.version && isAsKept)) continue
    const was = await ruleAt(sql, row, version)
    if (JSON.stringify(was.settings) !== settings) earlier.set(version, was)
  }
  return tie => {
    const was = earlier.get(tie.rule_version)
    return was ? { was } : {}
  }
}

/** More than these, and all that ever ended are read: that is quicker than naming each. */
const MOST_ENDED_NAMED = 5_000

/**
 * The last ended tie of each of these items, and given-up creations that may have happened. The cost follows the
 * untied items.
 */
export async function endedTies(
  sql: Sql,
  rule: Rule,
  row: RuleRow | null,
  ids: readonly string[],
): Promise<Map<string, EndedTie>> {
  if (ids.length === 0) return new Map()
  const rows = new Map<string, EndedRow>()
  const add = (found: readonly EndedRow[]): void => found.forEach(t => void rows.set(t.id, t))
  if (ids.length > MOST_ENDED_NAMED) add(await endedTiesOf(sql, { rule: rule.id }))
  else {
    for (const part of chunks(ids))
      for (const side of SIDES) add(await endedTiesOn(sql, side, { rule: rule.id, part }))
    add(await soughtTiesOf(sql, { rule: rule.id }))
  }
  const inOrder = [...rows.values()].sort((x, y) => x.made_at - y.made_at)
  const goesOn = inOrder.filter(t => t.released === 'left' || /-(again|deleted)$/.test(t.released ?? ''))
  const was = await earlierRules(sql, rule, row, goesOn)
  return new Map(
    inOrder.flatMap(t =>
      [t.a_mirror, t.b_mirror].flatMap(id => (id ? [[id, { ...tieOf(t), ...was(t) }] as const] : [])),
    ),
  )
}
