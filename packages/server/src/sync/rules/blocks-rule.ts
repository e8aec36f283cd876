import { randomUUID } from 'node:crypto'
import { defaultSettings, type RuleSettings } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { OWN_BLOCKS, OWN_TASKS } from '../../own/connector.ts'

/**
 * The rule that blocks and batches made by hand follow their tasks by, where no other rule pairs the task: the
 * block has the task's title, and what is still ahead of it goes when the task is done or deleted.
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
    sql.one<{ id: string }>('SELECT id FROM rules WHERE workspace_id = :workspaceId AND own = 1', {
      workspaceId,
    })
  const known = await find()
  if (known) return known.id
  const id = randomUUID()
  await sql.insert(
    `INSERT IGNORE INTO rules (id, workspace_id, name, a_collection, b_collection, settings, state, version,
       enabled_at, notices, own)
     SELECT :id, :workspaceId, 'Work blocks', a.id, b.id, :settings, 'on', 1, :now, '[]', 1
     FROM collections a JOIN collections b ON b.connection_id = a.connection_id
     WHERE a.workspace_id = :workspaceId AND a.remote_id = '${OWN_TASKS}' AND b.remote_id = '${OWN_BLOCKS}'
       AND a.connection_id IN (SELECT id FROM connections WHERE workspace_id = :workspaceId AND kind = 'own')`,
    { id, workspaceId, settings: JSON.stringify(settings), now },
  )
  await sql.insert(
    `INSERT IGNORE INTO rule_versions (rule_id, version, workspace_id, settings, saved_at)
     SELECT id, version, workspace_id, settings, enabled_at FROM rules WHERE id = :id`,
    { id },
  )
  return (await find())?.id ?? id
}
