import type { DaySum } from '@loom/core/ledger'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Sums of the ledger. `from` and `to` are days in the person's zone, `to` the one after the last. */

type Days = {
  memberId: string
  from: string
  to: string
}

const NAMED = { category: 'category', list: 'list', kind: 'kind' } as const

export interface SumRow extends DaySum {
  kind: string
  /** Minutes of tasks that are done, of which nobody has said that they were spent so. */
  unsaid: number
}

/** Of whole periods together: the first day stands for all. */
const BY_PERIOD = {
  day: 'day',
  week: 'DATE_SUB(day, INTERVAL WEEKDAY(day) DAY)',
  month: 'DATE_SUB(day, INTERVAL DAYOFMONTH(day) - 1 DAY)',
} as const

/** What is not confirmed counts as well; names are as they were written down. A day is never before `from`. */
export const sumsOf = (
  sql: Sql,
  { by, period, ...p }: Days & { by: keyof typeof NAMED; period: keyof typeof BY_PERIOD },
): Promise<SumRow[]> =>
  sql.rows(
    `SELECT CAST(GREATEST(${BY_PERIOD[period]}, :from) AS CHAR) AS day, ${NAMED[by]} AS name, kind,
       CAST(SUM(minutes) AS INT) AS minutes, CAST(SUM(unsaid) AS INT) AS unsaid
     FROM time_days WHERE member_id = :memberId AND day >= :from AND day < :to
     GROUP BY ${BY_PERIOD[period]}, ${NAMED[by]}, kind`,
    p,
  )

export interface TakenRow {
  item_key: string | null
  uid: string
  title: string
  category: string
  /** The last day on which time went into it. */
  day: string
  /** As it was when work began. */
  estimate: number | null
  taken: number
}

/** Tasks that are done and had time within these days, with all time they took; what is only assumed does not count. */
export const tasksTaken = (sql: Sql, p: Days & { limit: number }): Promise<TakenRow[]> =>
  sql.rows(
    `SELECT t.item_key, t.uid, t.title, t.category, CAST(t.day AS CHAR) AS day, t.estimate, t.taken
     FROM time_tasks t LEFT JOIN mirrors m ON m.id = t.item_key AND m.presence = 'present'
     WHERE t.member_id = :memberId AND t.day >= :from AND t.day < :to AND t.taken > 0
       AND IFNULL(1 - m.open_task, t.finished) = 1
     ORDER BY t.day DESC, t.uid DESC LIMIT :limit`,
    p,
  )

export const meetingSpans = (
  sql: Sql,
  p: Days & { limit: number },
): Promise<{ fromMs: number; toMs: number }[]> =>
  sql.rows(
    `SELECT from_ms AS fromMs, to_ms AS toMs FROM time_entries
     WHERE member_id = :memberId AND day >= :from AND day < :to AND withdrawn = 0 AND kind = 'meeting' AND from_ms IS NOT NULL
     ORDER BY from_ms LIMIT :limit`,
    p,
  )

/** Minutes beside those of blocks that were marked as worked, which the Cloth counts itself; by item. */
export const takenBeside = (sql: Sql, p: { memberId: string }): Promise<{ key: string; minutes: number }[]> =>
  sql.rows(
    `SELECT t.item_key AS \`key\`, t.beside AS minutes FROM time_tasks t JOIN mirrors m ON m.id = t.item_key
     WHERE t.member_id = :memberId AND t.beside > 0 AND m.presence = 'present' AND m.open_task = 1`,
    p,
  )

/** Minutes of each member by category in one week, of those who are in the team; what is private under no name. */
export const weekOfTeam = (
  sql: Sql,
  p: { workspaceId: string; from: string; to: string; privately: string },
): Promise<{ memberId: string; name: string; minutes: number }[]> =>
  sql.rows(
    `SELECT e.member_id AS memberId, IF(e.private = 1, :privately, e.category) AS name, CAST(SUM(e.minutes) AS INT) AS minutes
     FROM time_days e JOIN members m ON m.id = e.member_id AND m.left_at IS NULL
     WHERE e.workspace_id = :workspaceId AND e.day >= :from AND e.day < :to
     GROUP BY e.member_id, IF(e.private = 1, :privately, e.category)`,
    p,
  )

export const toldWeeks = (
  sql: Sql,
  p: { workspaceId: string; from: string; to: string },
): Promise<{ week: string; body: Json<Record<string, number> | null> }[]> =>
  sql.rows(
    `SELECT CAST(week AS CHAR) AS week, body FROM team_weeks
     WHERE workspace_id = :workspaceId AND week >= :from AND week < :to`,
    p,
  )

/** Whoever comes first says what everybody is told. */
export const tellWeek = (
  sql: Sql,
  p: { workspaceId: string; week: string; body: Json<Record<string, number> | null> },
): Promise<void> =>
  sql.insert(
    'INSERT IGNORE INTO team_weeks (workspace_id, week, body) VALUES (:workspaceId, :week, :body)',
    p,
  )
