import type { Sql } from '../database.ts'
import { type MirrorRow, MIRRORS } from './mirrors.ts'
import { containing } from '../like.ts'
import { GIVEN, PRIVACY } from './privacy.ts'

/** Items that somebody points at, found by id, by uid or by their words, and locked where they are about to be changed. */

export const lockEvent = (sql: Sql, p: { id: string; workspaceId: string }): Promise<{ id: string } | null> =>
  sql.one(
    `SELECT id FROM mirrors WHERE id = :id AND workspace_id = :workspaceId AND kind = 'event' AND presence = 'present'
       FOR UPDATE`,
    p,
  )

export const tasksAmong = (
  sql: Sql,
  p: { wanted: readonly string[]; workspaceId: string },
): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT id FROM mirrors WHERE id IN (:wanted) AND workspace_id = :workspaceId AND kind = 'task' AND presence = 'present'`,
    p,
  )

export const taskRow = (sql: Sql, p: { id: string; workspaceId: string }): Promise<MirrorRow | null> =>
  sql.one(
    `${MIRRORS} WHERE m.id = :id AND m.workspace_id = :workspaceId AND m.kind = 'task' AND m.presence = 'present'`,
    p,
  )

export const mirrorToDuplicate = (
  sql: Sql,
  p: { key: string; workspaceId: string },
): Promise<(MirrorRow & { writable: number; place: string; estimate: number | null }) | null> =>
  sql.one(
    MIRRORS.replace(
      'SELECT',
      `SELECT k.writable, CONCAT(n.name, ' · ', k.name) AS place, o.estimate_minutes AS estimate,`,
    ) +
      ` JOIN collections k ON k.id = m.collection_id JOIN connections n ON n.id = k.connection_id
         WHERE m.id = :key AND m.workspace_id = :workspaceId AND m.presence = 'present'`,
    p,
  )

export const presentWithUid = (
  sql: Sql,
  p: { connectionId: string; uid: string },
): Promise<{ id: string } | null> =>
  sql.one(
    `SELECT id FROM mirrors WHERE connection_id = :connectionId AND uid = :uid AND presence = 'present'`,
    p,
  )

export const atService = (
  sql: Sql,
  p: { id: string },
): Promise<{ remote_id: string; connection_id: string } | null> =>
  sql.one('SELECT remote_id, connection_id FROM mirrors WHERE id = :id', p)

export const lockToMove = (
  sql: Sql,
  p: { key: string; workspaceId: string },
): Promise<(MirrorRow & { writable: number }) | null> =>
  sql.one(
    MIRRORS.replace('SELECT', 'SELECT k.writable,') +
      ` JOIN collections k ON k.id = m.collection_id
        WHERE m.id = :key AND m.workspace_id = :workspaceId AND m.presence = 'present' FOR UPDATE`,
    p,
  )

export const holidaysIn = (
  sql: Sql,
  p: { workspaceId: string; id: string },
): Promise<{ start_ms: number; end_ms: number }[]> =>
  sql.rows(
    `SELECT m.start_ms, m.end_ms FROM mirrors m
     WHERE m.workspace_id = :workspaceId AND m.collection_id = :id AND m.presence = 'present' AND m.recurring = 0
       AND JSON_VALUE(m.item, '$.time.anchor.kind') = 'date' ORDER BY m.start_ms LIMIT 500`,
    p,
  )

export const nearestMirrors = (
  sql: Sql,
  p: { id: string; now: number },
): Promise<
  (MirrorRow & {
    collection: string
    takes_part: number
    start_ms: number | null
    open_task: number
    recurring: number
  })[]
> =>
  sql.rows(
    MIRRORS.replace(
      'SELECT',
      'SELECT k.name AS collection, k.takes_part, m.start_ms, m.open_task, m.recurring,',
    ) +
      ` JOIN collections k ON k.id = m.collection_id
       WHERE m.connection_id = :id AND m.presence IN ('present', 'outside')
       ORDER BY ABS(IFNULL(m.start_ms, 0) - :now) LIMIT 20000`,
    p,
  )

/** Items that hold every one of these words, open ones before done ones, what is nearest in time first. */
export const mirrorsWithWords = (
  sql: Sql,
  p: {
    workspaceId: string
    words: readonly string[]
    now: number
    most: number
    /** What somebody sees, where that is not everything. */
    seen: SeenItems | null
  },
): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT m.id FROM mirrors m JOIN collections k ON k.id = m.collection_id AND k.takes_part = 1
       ${p.seen ? 'LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id)' : ''}
     WHERE m.workspace_id = :workspaceId AND m.presence = 'present'
       ${p.words.map((_, i) => `AND m.words LIKE :w${i}`).join(' ')} ${p.seen ? `AND ${seenWith(p.words)}` : ''}
     ORDER BY (m.kind = 'task' AND m.open_task = 0), ABS(IFNULL(m.start_ms, :now) - :now), m.id LIMIT :most`,
    {
      workspaceId: p.workspaceId,
      now: p.now,
      most: p.most,
      ...(p.seen && { ...lists(p.seen), me: p.seen.me }),
      ...Object.fromEntries(p.words.map((w, i) => [`w${i}`, containing(w)])),
    },
  )

export interface SeenItems {
  me: string
  /** Lists of which everything is seen: of what is open, of what is classed, of what is marked private. */
  open: readonly string[]
  classed: readonly string[]
  marked: readonly string[]
  /** Lists of which at least titles are seen. */
  titled: readonly string[]
}

const lists = ({ open, classed, marked, titled }: SeenItems) => ({
  open: ['', ...open],
  classed: ['', ...classed],
  marked: ['', ...marked],
  titled: ['', ...titled],
})

/** Of what is seen by its title alone only that is looked through; what is given to whoever looks is seen whole. */
const seenWith = (words: readonly string[]): string => `(m.collection_id IN (:marked)
  OR m.collection_id IN (:classed) AND IFNULL(o.private, 0) = 0
  OR m.collection_id IN (:open) AND ${PRIVACY} = 0
  OR m.collection_id IN (:titled) AND ${PRIVACY} = 0
    ${words.map((_, i) => `AND LOWER(JSON_VALUE(m.item, '$.summary')) LIKE :w${i}`).join(' ')}
  OR ${GIVEN})`

/** What an item is called, to name it to people: where it is, and its title. */
export const nameOfMirror = (
  sql: Sql,
  p: { id: string; workspaceId: string },
): Promise<{ name: string } | null> =>
  sql.one(
    `SELECT CONCAT(n.name, ', “', LEFT(JSON_VALUE(m.item, '$.summary'), 100), '”') AS name
     FROM mirrors m JOIN connections n ON n.id = m.connection_id
     WHERE m.id = :id AND m.workspace_id = :workspaceId`,
    p,
  )
