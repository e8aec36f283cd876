import { PRIVACY } from './privacy.ts'
import type { Sql } from '../database.ts'

/** What members say about items. A comment belongs to one half of a pair. */

export interface CommentRow {
  id: string
  collection_id: string
  mirror_id: string
  made_by: string
  made_at: number
  changed_at: number | null
  /** The higher of how private its item was then and is now. */
  privacy: 0 | 1 | 2
  body: string
  /** Whoever said it. */
  who: string
}

const COMMENTS = `SELECT c.id, c.collection_id, c.mirror_id, c.made_by, c.made_at, c.changed_at, c.body, w.name AS who,
    GREATEST(c.privacy, IFNULL(${PRIVACY}, 0)) AS privacy
  FROM comments c JOIN members w ON w.id = c.made_by LEFT JOIN mirrors m ON m.id = c.mirror_id
    LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id)`
const MOST_SHOWN = 500

/** Oldest first; of very many the latest. */
export const commentsOn = async (
  sql: Sql,
  p: { workspaceId: string; ids: readonly string[] },
): Promise<CommentRow[]> =>
  (
    await sql.rows<CommentRow>(
      `${COMMENTS} WHERE c.workspace_id = :workspaceId AND c.mirror_id IN (:ids)
       ORDER BY c.made_at DESC, c.id DESC LIMIT ${MOST_SHOWN}`,
      { workspaceId: p.workspaceId, ids: ['', ...p.ids] },
    )
  ).reverse()

export const commentAt = (sql: Sql, p: { workspaceId: string; id: string }): Promise<CommentRow | null> =>
  sql.one(`${COMMENTS} WHERE c.workspace_id = :workspaceId AND c.id = :id`, p)

/** By who is named in each. */
export const namedIn = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ comment_id: string; member_id: string }[]> =>
  sql.rows('SELECT comment_id, member_id FROM comment_names WHERE comment_id IN (:ids)', {
    ids: ['', ...p.ids],
  })

export async function addComment(
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    collectionId: string
    mirrorId: string
    madeBy: string
    at: number
    privacy: number
    body: string
    named: readonly string[]
  },
): Promise<void> {
  const { named, ...comment } = p
  await sql.insert(
    `INSERT INTO comments (id, workspace_id, collection_id, mirror_id, made_by, made_at, privacy, body)
     VALUES (:id, :workspaceId, :collectionId, :mirrorId, :madeBy, :at, :privacy, :body)`,
    comment,
  )
  await nameIn(sql, { ...p, named })
}

/** Who was told already is not told again. */
async function nameIn(
  sql: Sql,
  p: { id: string; workspaceId: string; at: number; named: readonly string[] },
): Promise<void> {
  for (const member of p.named)
    await sql.insert(
      `INSERT IGNORE INTO comment_names (comment_id, member_id, workspace_id, made_at)
       VALUES (:id, :member, :workspaceId, :at)`,
      { id: p.id, member, workspaceId: p.workspaceId, at: p.at },
    )
}

export async function changeComment(
  sql: Sql,
  p: { id: string; workspaceId: string; at: number; body: string; named: readonly string[] },
): Promise<void> {
  await sql.run('UPDATE comments SET body = :body, changed_at = :at WHERE id = :id', p)
  await sql.run('DELETE FROM comment_names WHERE comment_id = :id AND member_id NOT IN (:named)', {
    id: p.id,
    named: ['', ...p.named],
  })
  await nameIn(sql, p)
}

export const dropComment = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('DELETE FROM comments WHERE id = :id', p)

/** What was said of an item goes along to another mirror of it, wherever that lies. */
export const commentsGoOver = (sql: Sql, p: { from: string; to: string }): Promise<number> =>
  sql.run(
    `UPDATE comments c JOIN mirrors m ON m.id = :to SET c.mirror_id = m.id, c.collection_id = m.collection_id
     WHERE c.mirror_id = :from`,
    p,
  )

/** Whoever has read it needs no letter about it. */
export const markRead = (
  sql: Sql,
  p: { memberId: string; ids: readonly string[]; now: number },
): Promise<number> =>
  sql.run(
    `UPDATE comment_names SET told_at = :now
     WHERE member_id = :memberId AND told_at IS NULL AND comment_id IN (:ids)`,
    { ...p, ids: ['', ...p.ids] },
  )

/** Lists of which somebody sees everything: of what is open, of what is classed, of what is marked. */
interface SeenLists {
  open: readonly string[]
  classed: readonly string[]
  marked: readonly string[]
}

export interface CommentLine extends CommentRow {
  title: string
  place: string
}

/** What was said where everything is seen, newest first; `words`: a LIKE pattern, null for all. */
export const commentsSeen = (
  sql: Sql,
  p: { workspaceId: string; seen: SeenLists; words: string | null; before: number | null; most: number },
): Promise<CommentLine[]> =>
  sql.rows(
    `SELECT * FROM (SELECT c.id, c.collection_id, c.mirror_id, c.made_by, c.made_at, c.changed_at, c.body, w.name AS who,
         GREATEST(c.privacy, IFNULL(${PRIVACY}, 0)) AS privacy,
         IFNULL(JSON_VALUE(m.item, '$.summary'), '') AS title, CONCAT(n.name, ' · ', k.name) AS place
       FROM comments c JOIN members w ON w.id = c.made_by JOIN collections k ON k.id = c.collection_id
         JOIN connections n ON n.id = k.connection_id LEFT JOIN mirrors m ON m.id = c.mirror_id
         LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id)
       WHERE c.workspace_id = :workspaceId AND c.collection_id IN (:open, :classed, :marked)
         AND (:before IS NULL OR c.made_at < :before)) AS said
     WHERE (privacy = 0 AND collection_id IN (:open) OR privacy = 1 AND collection_id IN (:classed)
         OR privacy = 2 AND collection_id IN (:marked))
       AND (:words IS NULL OR LOWER(body) LIKE :words OR LOWER(title) LIKE :words OR LOWER(who) LIKE :words)
     ORDER BY made_at DESC, id DESC LIMIT :most`,
    {
      ...p,
      open: ['', ...p.seen.open],
      classed: ['', ...p.seen.classed],
      marked: ['', ...p.seen.marked],
    },
  )

/** Members who were named, and have neither read it nor been told, since before then. */
export const untoldMembers = (
  sql: Sql,
  p: { before: number },
): Promise<{ member_id: string; workspace_id: string }[]> =>
  sql.rows(
    `SELECT DISTINCT member_id, workspace_id FROM comment_names WHERE told_at IS NULL AND made_at <= :before LIMIT 200`,
    p,
  )

/** In one letter; the rest comes in the next. */
const MOST_TOLD = 100

/** Of several servers one tells them: whoever marks these first. Returns what there was to tell. */
export async function claimUntold(sql: Sql, p: { memberId: string; now: number }): Promise<CommentRow[]> {
  const found = await sql.rows<{ comment_id: string }>(
    `SELECT comment_id FROM comment_names WHERE member_id = :memberId AND told_at IS NULL
     ORDER BY made_at LIMIT ${MOST_TOLD} FOR UPDATE`,
    p,
  )
  if (found.length === 0) return []
  const ids = found.map(f => f.comment_id)
  await markRead(sql, { memberId: p.memberId, ids, now: p.now })
  return sql.rows<CommentRow>(`${COMMENTS} WHERE c.id IN (:ids) ORDER BY c.made_at`, { ids })
}

/** The letter was not taken: they are to be told later. */
export const untell = (
  sql: Sql,
  p: { memberId: string; ids: readonly string[]; next: number },
): Promise<number> =>
  sql.run(
    `UPDATE comment_names SET told_at = NULL, made_at = :next WHERE member_id = :memberId AND comment_id IN (:ids)`,
    { ...p, ids: ['', ...p.ids] },
  )
