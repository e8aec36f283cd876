import { randomUUID } from 'node:crypto'
import { defaultSettings, type RuleSettings } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { ownRuleOf, addOwnRule, addFirstVersion } from '../../data/repositories/rules.ts'
import { json } from '../../data/json.ts'

/**
 * The rule for blocks and batches made by hand, where no other rule pairs the task. The block has the task's
 * title. Blocks in the future are removed when the task is done or deleted.
 */
const settings: RuleSettings = {
  ...defaultSettings,
  fields: Object.fromEntries(
    Object.keys(defaultSettings.fields).map(f => [f, f === 'title' ? 'a-to-b' : 'off']),
  ) as RuleSettings['fields'],
  made: { a: 'nothing', b: 'nothing' },
  deleted: { a: 'deleted', b: 'left' },
  blocksAhead: 'remove',
}

export async function blocksRuleOf(sql: Sql, workspaceId: string, now: number): Promise<string> {
  const find = () =>
    ownRuleOf(sql, {
      workspaceId,
    })
  const known = await find()
  if (known) return known.id
  const id = randomUUID()
  await addOwnRule(sql, { id, workspaceId, settings: json(settings), now })
  await addFirstVersion(sql, { id })
  return (await find())?.id ?? id
}
