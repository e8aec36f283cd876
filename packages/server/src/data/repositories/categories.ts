import type { Category } from '@loom/core'
import { PRIVACY } from './privacy.ts'
import { json, parsed } from '../json.ts'
import type { CategoryColumns } from '../models/settings.ts'
import type { Sql } from '../database.ts'

/** What a workspace calls its categories, and the words that its services use. */

export async function categoriesOf(sql: Sql, p: { workspaceId: string }): Promise<Category[]> {
  const rows = (await sql.models.categories.findAll({
    where: { workspace_id: p.workspaceId },
    order: ['name'],
    ...sql.within,
  })) as unknown as CategoryColumns[]
  return rows.map(({ name, dye, words }) => ({ name, dye, words: parsed(words) }))
}

/** All of them at once; whoever calls holds the workspace. */
export async function putCategories(
  sql: Sql,
  p: { workspaceId: string; categories: readonly Category[] },
): Promise<void> {
  const { transaction } = sql.within
  await sql.models.categories.destroy({ where: { workspace_id: p.workspaceId }, transaction })
  await sql.models.categories.bulkCreate(
    p.categories.map(({ name, dye, words }) => ({
      workspace_id: p.workspaceId,
      name,
      dye,
      words: json(words),
    })),
    { transaction },
  )
}

export interface UsedWord {
  word: string
  connectionId: string
  connection: string
  count: number
}

/**
 * The words of items that are there, by account, the most used first. SQL, because it counts within the items:
 * asked when somebody looks after categories, not with the days.
 */
export const categoryWordsUsed = (
  sql: Sql,
  /** `lists`: those of which everything is counted, but what is private outside `marked`; null for all. */
  p: {
    workspaceId: string
    connectionId: string | null
    lists: readonly string[] | null
    marked: readonly string[]
  },
): Promise<UsedWord[]> =>
  sql.rows(
    `SELECT w.word, m.connection_id AS connectionId, c.name AS connection, COUNT(*) AS count
     FROM mirrors m JOIN connections c ON c.id = m.connection_id
       JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1
       LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id),
       JSON_TABLE(m.item, '$.categories[*]' COLUMNS (word VARCHAR(500) PATH '$')) w
     WHERE m.workspace_id = :workspaceId AND m.presence = 'present'
       ${p.lists === null ? '' : `AND m.collection_id IN (:lists) AND (${PRIVACY} = 0 OR m.collection_id IN (:marked))`}
       AND (:connectionId IS NULL OR m.connection_id = :connectionId)
     GROUP BY m.connection_id, w.word
     ORDER BY count DESC, w.word LIMIT 2000`,
    { ...p, lists: ['', ...(p.lists ?? [])], marked: ['', ...p.marked] },
  )
