import { type Asker, type Sight, sightIn } from '../../access/sight.ts'
import type { Sql } from '../../data/database.ts'
import { type RuleRow, rulesWithPlainNames } from '../../data/repositories/rules.ts'
import { collectionsOfRule, type RuleDraft, listsOfDraft } from './rules.ts'

/**
 * Rules are a channel: whoever changes one writes on both its sides. So a rule, and all that waits for a decision in
 * it, is for those who may change every list and calendar of both.
 */

type Who = Asker & { workspaceId: string }

const changesAll = (sight: Sight, lists: readonly string[]): boolean =>
  lists.every(id => sight.sees(id, 'change'))

export const mayChangeRule = async (sql: Sql, who: Who, row: RuleRow): Promise<boolean> =>
  changesAll(await sightIn(sql, who), await collectionsOfRule(sql, row))

/** The rules of a workspace that somebody may change, by id. */
export async function rulesToChange(sql: Sql, who: Who): Promise<ReadonlySet<string>> {
  const sight = await sightIn(sql, who)
  const rows = await rulesWithPlainNames(sql, { workspaceId: who.workspaceId })
  const mine = await Promise.all(
    rows.map(async row =>
      sight.isWhole || changesAll(sight, await collectionsOfRule(sql, row)) ? [row.id] : [],
    ),
  )
  return new Set(mine.flat())
}

/** Whether somebody may pair what a draft names. */
export async function mayPair(
  sql: Sql,
  who: Who,
  draft: Pick<RuleDraft, 'a' | 'b' | 'settings'>,
): Promise<boolean> {
  const lists = await listsOfDraft(sql, { ...draft, workspaceId: who.workspaceId })
  return changesAll(await sightIn(sql, who), lists)
}

export const NOT_BOTH_SIDES = 'A rule is for who may change both its sides.'
