import type { EntryAbout, EntrySource } from '@loom/core/ledger'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** The ledger of time taken: one row for each entry as it stands, and one for each earlier version. */

export interface EntryRow {
  id: string
  version: number
  /** 1: what it came from was undone. 2: its person removed it, and it does not come by itself again. */
  withdrawn: number
  /** `YYYY-MM-DD`. */
  day: string
  from_ms: number | null
  to_ms: number | null
  minutes: number
  counted: number
  source: EntrySource
  assumed: number
  item_key: string | null
  uid: string
  title: string
  list: string
  category: string
  kind: EntryAbout['kind']
  estimate: number | null
  private: number
  ref: string | null
}

const COLUMNS = `id, version, withdrawn, CAST(day AS CHAR) AS day, from_ms, to_ms, minutes, counted, source, assumed, item_key, uid,
  title, list, category, kind, estimate, private, ref`

/** Whoever writes to a ledger does so one after the other: which minutes count depends on all of them. */
export async function lockLedger(sql: Sql, p: { memberId: string; workspaceId: string }): Promise<ClockRow> {
  const lock = 'SELECT clock_from_ms, clock_about FROM ledgers WHERE member_id = :memberId FOR UPDATE'
  const there = await sql.one<ClockRow>(lock, p)
  if (there) return there
  await sql.insert('INSERT IGNORE INTO ledgers (member_id, workspace_id) VALUES (:memberId, :workspaceId)', p)
  return (await sql.one<ClockRow>(lock, p)) ?? { clock_from_ms: null, clock_about: null }
}

export interface ClockRow {
  clock_from_ms: number | null
  clock_about: Json<EntryAbout> | null
}

export const clockOf = (sql: Sql, p: { memberId: string }): Promise<ClockRow | null> =>
  sql.one('SELECT clock_from_ms, clock_about FROM ledgers WHERE member_id = :memberId', p)

export const setClock = (
  sql: Sql,
  p: { memberId: string; from: number | null; about: Json<EntryAbout> | null },
): Promise<number> =>
  sql.run('UPDATE ledgers SET clock_from_ms = :from, clock_about = :about WHERE member_id = :memberId', p)

export type NewEntry = Omit<EntryRow, 'version' | 'withdrawn' | 'counted'>

/** What has a reference is there once. */
export const addEntry = (
  sql: Sql,
  p: NewEntry & { memberId: string; workspaceId: string; now: number },
): Promise<void> =>
  sql.insert(
    `INSERT IGNORE INTO time_entries (id, workspace_id, member_id, version, day, from_ms, to_ms, minutes, source, assumed, item_key,
       uid, title, list, category, kind, estimate, private, ref, made_at)
     VALUES (:id, :workspaceId, :memberId, 1, :day, :from_ms, :to_ms, :minutes, :source, :assumed, :item_key,
       :uid, :title, :list, :category, :kind, :estimate, :private, :ref, :now)`,
    p,
  )

export const entryOf = (sql: Sql, p: { id: string; memberId: string }): Promise<EntryRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM time_entries WHERE id = :id AND member_id = :memberId`, p)

export const entryByRef = (sql: Sql, p: { ref: string; memberId: string }): Promise<EntryRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM time_entries WHERE ref = :ref AND member_id = :memberId`, p)

/** Those that stand, of references that begin so. */
export const entriesByRef = (sql: Sql, p: { begins: string; memberId: string }): Promise<EntryRow[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM time_entries WHERE member_id = :memberId AND ref LIKE CONCAT(:begins, '%') AND withdrawn = 0`,
    p,
  )

/** Those that stand, by the day and the hour; `to` is the day after the last. */
export const entriesOf = (
  sql: Sql,
  p: { memberId: string; from: string; to: string; limit: number },
): Promise<EntryRow[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM time_entries WHERE member_id = :memberId AND day >= :from AND day < :to AND withdrawn = 0
     ORDER BY day, from_ms IS NULL, from_ms, made_at, id LIMIT :limit`,
    p,
  )

export const entriesOfItem = (
  sql: Sql,
  p: { memberId: string; key: string; limit: number },
): Promise<EntryRow[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM time_entries WHERE member_id = :memberId AND item_key = :key AND withdrawn = 0
     ORDER BY day DESC, from_ms DESC, id LIMIT :limit`,
    p,
  )

/** What the first work on a task, by this person, took its estimate to be; null where there was none yet. */
export const firstEntryOn = (
  sql: Sql,
  p: { memberId: string; uid: string },
): Promise<{ estimate: number | null } | null> =>
  sql.one(
    `SELECT estimate FROM time_entries WHERE member_id = :memberId AND uid = :uid AND withdrawn = 0
     ORDER BY day, made_at LIMIT 1`,
    p,
  )

export const keepVersion = (
  sql: Sql,
  p: { id: string; workspaceId: string; version: number; at: number; body: Json<EntryRow> },
): Promise<void> =>
  sql.insert(
    `INSERT INTO time_entry_versions (entry_id, version, workspace_id, at, body) VALUES (:id, :version, :workspaceId, :at, :body)`,
    p,
  )

export const changeEntry = (
  sql: Sql,
  p: Pick<
    EntryRow,
    'id' | 'day' | 'from_ms' | 'to_ms' | 'minutes' | 'source' | 'assumed' | 'category' | 'withdrawn'
  >,
): Promise<number> =>
  sql.run(
    `UPDATE time_entries SET version = version + 1, day = :day, from_ms = :from_ms, to_ms = :to_ms, minutes = :minutes,
       source = :source, assumed = :assumed, category = :category, withdrawn = :withdrawn,
       counted = IF(:withdrawn = 0, counted, 0) WHERE id = :id`,
    p,
  )

/** For good: of what could come by itself again only stays that it is not to. */
export async function deleteEntry(sql: Sql, p: { id: string }): Promise<void> {
  await sql.run('DELETE FROM time_entry_versions WHERE entry_id = :id', p)
  await sql.run('DELETE FROM time_entries WHERE id = :id AND ref IS NULL', p)
  await sql.run(
    `UPDATE time_entries SET withdrawn = 2, minutes = 0, counted = 0, from_ms = NULL, to_ms = NULL, item_key = NULL, uid = '',
       title = '', list = '', category = '', estimate = NULL WHERE id = :id`,
    p,
  )
}

/** Removed before `before`, and not back since. */
export const removedBefore = (
  sql: Sql,
  p: { workspaceId: string; before: number },
): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT e.id FROM time_entries e WHERE e.workspace_id = :workspaceId AND e.withdrawn = 2 AND e.title <> ''
       AND (SELECT MAX(v.at) FROM time_entry_versions v WHERE v.entry_id = e.id) < :before LIMIT 1000`,
    p,
  )

export const setCounted = (sql: Sql, p: { id: string; counted: number }): Promise<number> =>
  sql.run('UPDATE time_entries SET counted = :counted WHERE id = :id', p)

/** The sums of a day, as its entries are now. */
export async function sumDay(sql: Sql, p: { memberId: string; day: string }): Promise<void> {
  await sql.run('DELETE FROM time_days WHERE member_id = :memberId AND day = :day', p)
  await sql.insert(
    `INSERT INTO time_days (member_id, workspace_id, day, kind, private, category, list, minutes, unsaid)
     SELECT member_id, workspace_id, day, kind, private, category, list, SUM(counted),
       SUM(IF(assumed = 1 AND source = 'worked', counted, 0))
     FROM time_entries WHERE member_id = :memberId AND day = :day AND withdrawn = 0
     GROUP BY member_id, workspace_id, day, kind, private, category, list HAVING SUM(counted) > 0`,
    p,
  )
}

/** The sums of a task, as its entries are now. What is only assumed is no part of what it took. */
export async function sumTask(sql: Sql, p: { memberId: string; uid: string }): Promise<void> {
  await sql.run('UPDATE time_tasks SET taken = 0, beside = 0 WHERE member_id = :memberId AND uid = :uid', p)
  await sql.insert(
    `INSERT INTO time_tasks (member_id, workspace_id, uid, item_key, title, category, estimate, taken, beside, day)
     SELECT e.member_id, e.workspace_id, e.uid, MAX(e.item_key), MAX(e.title), MAX(e.category),
       (SELECT f.estimate FROM time_entries f WHERE f.member_id = :memberId AND f.uid = :uid AND f.withdrawn = 0
         ORDER BY f.day, f.made_at LIMIT 1),
       SUM(IF(e.assumed = 0, e.counted, 0)), SUM(e.counted) - SUM(IF(e.ref LIKE 'worked:%', e.minutes, 0)), MAX(e.day)
     FROM time_entries e WHERE e.member_id = :memberId AND e.uid = :uid AND e.withdrawn = 0 AND e.kind = 'task'
     GROUP BY e.member_id, e.workspace_id, e.uid
     ON DUPLICATE KEY UPDATE item_key = VALUES(item_key), title = VALUES(title), category = VALUES(category),
       estimate = VALUES(estimate), taken = VALUES(taken), beside = VALUES(beside), day = VALUES(day)`,
    p,
  )
}

/** Of tasks that are done, as their service says now: it stays so when they are deleted later. */
export const markFinished = (sql: Sql, p: { workspaceId: string }): Promise<number> =>
  sql.run(
    `UPDATE time_tasks t JOIN mirrors m ON m.id = t.item_key
       SET t.finished = 1 - m.open_task
     WHERE t.workspace_id = :workspaceId AND m.kind = 'task' AND m.presence = 'present' AND t.finished <> 1 - m.open_task`,
    p,
  )

/** All of somebody's, the latest first. */
export const ledgerOf = (sql: Sql, p: { memberId: string; limit: number }): Promise<EntryRow[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM time_entries WHERE member_id = :memberId AND withdrawn = 0
     ORDER BY day DESC, from_ms DESC, id LIMIT :limit`,
    p,
  )

export async function forgetLedger(sql: Sql, p: { memberId: string }): Promise<void> {
  await sql.run('DELETE FROM time_days WHERE member_id = :memberId', p)
  await sql.run('DELETE FROM time_tasks WHERE member_id = :memberId', p)
  await sql.run('DELETE FROM time_entries WHERE member_id = :memberId', p)
  await sql.run('DELETE FROM ledgers WHERE member_id = :memberId', p)
}
