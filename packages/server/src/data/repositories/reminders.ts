import type { Sql } from '../database.ts'

/** What people were reminded of, and what of it is still owed to them by mail or on a device. */

export interface GivenReminder {
  id: string
  workspace_id: string
  member_id: string
  /** As `reminderName` makes it. */
  name: string
  about_ms: number
  given_at: number
  /** How often it was put off. */
  round: number
  /** When it is to come again; null where it has come. */
  again_at: number | null
  done_at: number | null
}
const COLUMNS = 'id, workspace_id, member_id, name, about_ms, given_at, round, again_at, done_at'

/** Who wants to be reminded of something, with what says whether it can have changed. */
export const remindedMembers = (
  sql: Sql,
): Promise<{ member: string; workspace: string; seq: number; version: number; chosen: number }[]> =>
  sql.rows(
    `SELECT m.id AS member, m.workspace_id AS workspace, c.change_seq AS seq, IFNULL(p.version, 0) AS version,
       (SELECT IFNULL(SUM(CRC32(CONCAT(i.item_key, ' ', IFNULL(i.minutes, '')))), 0)
        FROM item_reminders i WHERE i.member_id = m.id) AS chosen
     FROM members m JOIN change_counters c ON c.workspace_id = m.workspace_id
       LEFT JOIN planning p ON p.member_id = m.id
     WHERE m.left_at IS NULL
       AND (p.is_reminded = 1 OR EXISTS (SELECT 1 FROM item_reminders i WHERE i.member_id = m.id))
     ORDER BY m.id`,
  )

/** Those of these names that were given before. */
export const givenAmong = (
  sql: Sql,
  p: { memberId: string; names: readonly string[] },
): Promise<{ name: string }[]> =>
  p.names.length === 0
    ? Promise.resolve([])
    : sql.rows('SELECT name FROM reminders WHERE member_id = :memberId AND name IN (:names)', p)

/** Whether it was not given before, by whichever server. */
export const giveReminder = async (
  sql: Sql,
  p: Pick<GivenReminder, 'id' | 'workspace_id' | 'member_id' | 'name' | 'about_ms' | 'given_at'>,
): Promise<boolean> =>
  (await sql.run(
    `INSERT IGNORE INTO reminders (id, workspace_id, member_id, name, about_ms, given_at)
     VALUES (:id, :workspace_id, :member_id, :name, :about_ms, :given_at)`,
    { ...p },
  )) === 1

/** What is not done with, from then on; also what waits to come again. */
export const openReminders = (sql: Sql, p: { memberId: string; since: number }): Promise<GivenReminder[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM reminders WHERE member_id = :memberId AND done_at IS NULL AND given_at >= :since
     ORDER BY about_ms, id LIMIT 200`,
    p,
  )

export const reminderOf = (sql: Sql, p: { id: string; memberId: string }): Promise<GivenReminder | null> =>
  sql.one(`SELECT ${COLUMNS} FROM reminders WHERE id = :id AND member_id = :memberId`, p)

export const remindersAgain = (sql: Sql, p: { now: number }): Promise<GivenReminder[]> =>
  sql.rows(`SELECT ${COLUMNS} FROM reminders WHERE again_at <= :now AND done_at IS NULL LIMIT 200`, p)

/** Whether nobody else has it come again. */
export const comeAgain = async (sql: Sql, p: { id: string; was: number; now: number }): Promise<boolean> =>
  (await sql.run(
    'UPDATE reminders SET again_at = NULL, given_at = :now, round = round + 1 WHERE id = :id AND again_at = :was',
    p,
  )) === 1

export const putOffReminder = (
  sql: Sql,
  p: { id: string; memberId: string; againAt: number },
): Promise<number> =>
  sql.run(
    'UPDATE reminders SET again_at = :againAt WHERE id = :id AND member_id = :memberId AND done_at IS NULL',
    p,
  )

export const doneWith = (
  sql: Sql,
  p: { ids: readonly string[]; memberId: string; now: number },
): Promise<number> =>
  sql.run(
    'UPDATE reminders SET done_at = :now, again_at = NULL WHERE id IN (:ids) AND member_id = :memberId AND done_at IS NULL',
    p,
  )

export const oweDeliveries = (
  sql: Sql,
  p: { reminderId: string; workspaceId: string; ways: readonly string[] },
): Promise<void> =>
  sql.insertMany(
    'INSERT IGNORE INTO reminder_deliveries (reminder_id, way, workspace_id, next_at) VALUES (?, ?, ?, ?)',
    p.ways.map(way => [p.reminderId, way, p.workspaceId, 0]),
  )

/** `mail`, or the device's id. */
export interface Owed extends GivenReminder {
  way: string
  next_at: number
}
const OF_REMINDER = COLUMNS.split(', ')
  .map(c => `r.${c}`)
  .join(', ')

/** @param p.wall epoch ms by the server's own clock */
export const owedDeliveries = (sql: Sql, p: { wall: number }): Promise<Owed[]> =>
  sql.rows(
    `SELECT ${OF_REMINDER}, d.way, d.next_at FROM reminder_deliveries d JOIN reminders r ON r.id = d.reminder_id
     WHERE d.next_at <= :wall ORDER BY d.next_at, r.given_at LIMIT 200`,
    p,
  )

/** Whether nobody else is at it. */
export const claimDelivery = async (
  sql: Sql,
  p: { reminderId: string; way: string; was: number; until: number },
): Promise<boolean> =>
  (await sql.run(
    'UPDATE reminder_deliveries SET next_at = :until WHERE reminder_id = :reminderId AND way = :way AND next_at = :was',
    p,
  )) === 1

export const delivered = (sql: Sql, p: { reminderId: string; way: string }): Promise<number> =>
  sql.run('DELETE FROM reminder_deliveries WHERE reminder_id = :reminderId AND way = :way', p)

export const dropOldReminders = (sql: Sql, p: { before: number }): Promise<number> =>
  sql.run('DELETE FROM reminders WHERE given_at < :before AND about_ms < :before LIMIT 2000', p)

/** What somebody said of single items: minutes before; null: never. */
export const itemReminders = (
  sql: Sql,
  p: { memberId: string },
): Promise<{ item_key: string; minutes: number | null }[]> =>
  sql.rows('SELECT item_key, minutes FROM item_reminders WHERE member_id = :memberId', p)

export const putItemReminder = (
  sql: Sql,
  p: { memberId: string; workspaceId: string; key: string; minutes: number | null },
): Promise<void> =>
  sql.insert(
    `INSERT INTO item_reminders (member_id, item_key, workspace_id, minutes) VALUES (:memberId, :key, :workspaceId, :minutes)
     ON DUPLICATE KEY UPDATE minutes = VALUES(minutes)`,
    p,
  )

export const dropItemReminder = (sql: Sql, p: { memberId: string; key: string }): Promise<number> =>
  sql.run('DELETE FROM item_reminders WHERE member_id = :memberId AND item_key = :key', p)
