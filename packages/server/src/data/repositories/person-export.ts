import type { Item } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** What is kept about one person, for themselves. */

const MOST = 50_000

export const ownItemsIn = (
  sql: Sql,
  p: { workspaceId: string; collection: string },
): Promise<{ item: Json<Item>; original: string | null }[]> =>
  sql.rows(
    `SELECT item, original FROM own_items
       WHERE workspace_id = :workspaceId AND collection = :collection AND deleted = 0 ORDER BY seq LIMIT ${MOST}`,
    p,
  )

export const viewsMadeBy = (
  sql: Sql,
  p: { memberId: string },
): Promise<{ name: string; body: Json<unknown> }[]> =>
  sql.rows('SELECT name, body FROM views WHERE made_by = :memberId ORDER BY name', p)

/** The latest come first. */
export const journalLinesBy = (
  sql: Sql,
  p: { workspaceId: string; memberId: string },
): Promise<
  {
    at: number
    title: string
    place: string
    op: string
    cause: string
    fields: Json<unknown>
    outcome: string
  }[]
> =>
  sql.rows(
    `SELECT at, title, place, op, cause, fields, outcome FROM journal
       WHERE workspace_id = :workspaceId AND member_id = :memberId ORDER BY id DESC LIMIT ${MOST}`,
    p,
  )

/** What they said about items, the latest first. */
export const commentsBy = (
  sql: Sql,
  p: { workspaceId: string; memberId: string },
): Promise<{ at: number; body: string }[]> =>
  sql.rows(
    `SELECT made_at AS at, body FROM comments
     WHERE workspace_id = :workspaceId AND made_by = :memberId ORDER BY made_at DESC LIMIT ${MOST}`,
    p,
  )
