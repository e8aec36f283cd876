import { createHash, randomBytes } from 'node:crypto'
import type { Told } from '@loom/core/invitations'
import type { GuestAnswer, Item } from '@loom/core'
import type { Letter } from '../../mail/mailer.ts'
import type { Sql } from '../database.ts'
import type { Json } from '../json.ts'

/** Meetings whose guests are told by us, the letters that are still to go, and what guests have answered. */

/** The same for one UID in a workspace, whatever list its event is in. */
export const meetingIdOf = (workspaceId: string, uid: string): string =>
  createHash('sha256').update(`${workspaceId} ${uid}`).digest('hex').slice(0, 32)

export interface MeetingRow {
  /** As `meetingIdOf` makes it. */
  id: string
  workspace_id: string
  uid: string
  /** The local part of the address at which answers arrive. */
  token: string
  organizer_id: string | null
  /** Null where nobody was told anything yet. */
  told: Json<Told> | null
  /** The calendar object as it was told last. */
  object: string | null
  /** It stood before anybody was told by us. */
  from_before: number
  /** It came from another calendar, which tells its guests. */
  elsewhere: number
  /** What is to be told once it has stood for a while: a digest of how it stands, and when. */
  pending: string | null
  pending_at: number
}
const COLUMNS =
  'id, workspace_id, uid, token, organizer_id, told, object, from_before, elsewhere, pending, pending_at'

export interface MeetingEvent {
  id: string
  workspace: string
  uid: string
  original: string | null
  item: Json<Item>
}

export const workspacesWithOwn = (sql: Sql): Promise<{ workspace: string; seq: number }[]> =>
  sql.rows(
    `SELECT c.workspace_id AS workspace, c.change_seq AS seq FROM change_counters c
     WHERE EXISTS (SELECT 1 FROM connections n WHERE n.workspace_id = c.workspace_id AND n.kind = 'own')
     ORDER BY c.workspace_id`,
  )

const EVENTS = `SELECT m.id, m.workspace_id AS workspace, m.uid, p.original, m.item
  FROM mirrors m JOIN connections n ON n.id = m.connection_id AND n.kind = 'own'
    LEFT JOIN payloads p ON p.mirror_id = m.id
  WHERE m.kind = 'event' AND m.series_id IS NULL AND m.presence = 'present'`

/** Events with guests in the lists that are kept here, from an id on. */
export const eventsWithGuests = (
  sql: Sql,
  p: { workspaceId: string; after: string },
): Promise<MeetingEvent[]> =>
  sql.rows(
    `${EVENTS} AND m.workspace_id = :workspaceId AND m.id > :after
       AND IFNULL(JSON_VALUE(m.item, '$.attendees'), 0) > 0
     ORDER BY m.id LIMIT 200`,
    p,
  )

/** Its event, in whichever of our lists it is. */
export const meetingEvent = (
  sql: Sql,
  p: { workspaceId: string; uid: string },
): Promise<MeetingEvent | null> =>
  sql.one(`${EVENTS} AND m.workspace_id = :workspaceId AND m.uid = :uid ORDER BY m.id LIMIT 1`, p)

export const meetingsAfter = (sql: Sql, p: { workspaceId: string; after: string }): Promise<MeetingRow[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM meetings WHERE workspace_id = :workspaceId AND id > :after ORDER BY id LIMIT 500`,
    p,
  )

export const addMeeting = (
  sql: Sql,
  p: { id: string; workspaceId: string; uid: string; token: string },
): Promise<void> =>
  sql.insert(
    'INSERT IGNORE INTO meetings (id, workspace_id, uid, token) VALUES (:id, :workspaceId, :uid, :token)',
    p,
  )

/** What comes from another calendar is told by that: one sender for a meeting. */
export const toldElsewhere = (sql: Sql, p: { workspaceId: string; uid: string }): Promise<void> =>
  sql.insert(
    `INSERT INTO meetings (id, workspace_id, uid, token, elsewhere) VALUES (:id, :workspaceId, :uid, :token, 1)
     ON DUPLICATE KEY UPDATE uid = VALUES(uid)`,
    { ...p, id: meetingIdOf(p.workspaceId, p.uid), token: randomBytes(20).toString('hex') },
  )

export const lockMeeting = (sql: Sql, p: { id: string }): Promise<MeetingRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM meetings WHERE id = :id FOR UPDATE`, p)

export const meetingById = (sql: Sql, p: { id: string }): Promise<MeetingRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM meetings WHERE id = :id`, p)

export const meetingByToken = (sql: Sql, p: { token: string }): Promise<MeetingRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM meetings WHERE token = :token`, p)

export const setPending = (
  sql: Sql,
  p: { id: string; pending: string | null; at: number },
): Promise<number> => sql.run('UPDATE meetings SET pending = :pending, pending_at = :at WHERE id = :id', p)

export const setTold = (
  sql: Sql,
  p: { id: string; told: Json<Told>; object: string | null; organizerId: string | null; now: number },
): Promise<number> =>
  sql.run(
    `UPDATE meetings SET told = :told, object = IFNULL(:object, object),
       organizer_id = IFNULL(:organizerId, organizer_id), from_before = 0, pending = NULL, pending_at = :now
     WHERE id = :id`,
    p,
  )

export const dropMeeting = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('DELETE FROM meetings WHERE id = :id', p)

export interface MeetingLetter {
  id: string
  workspace_id: string
  letter: Json<Letter>
  next_at: number
  failures: number
}

export const addMeetingLetter = (
  sql: Sql,
  p: { id: string; meetingId: string | null; workspaceId: string; now: number; letter: Json<Letter> },
): Promise<void> =>
  sql.insert(
    `INSERT INTO meeting_letters (id, meeting_id, workspace_id, made_at, next_at, letter)
     VALUES (:id, :meetingId, :workspaceId, :now, 0, :letter)`,
    p,
  )

/** @param wall the server's own clock, epoch ms, as all that claims are reckoned in */
export const dueMeetingLetters = (sql: Sql, p: { wall: number }): Promise<MeetingLetter[]> =>
  sql.rows(
    'SELECT id, workspace_id, letter, next_at, failures FROM meeting_letters WHERE next_at <= :wall ORDER BY made_at, id LIMIT 100',
    p,
  )

/** Whether this server sends it: nobody else does before `until`. */
export const claimMeetingLetter = async (
  sql: Sql,
  p: { id: string; was: number; until: number },
): Promise<boolean> =>
  (await sql.run(
    'UPDATE meeting_letters SET next_at = :until, failures = failures + 1 WHERE id = :id AND next_at = :was',
    p,
  )) === 1

export const meetingLetterGone = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('DELETE FROM meeting_letters WHERE id = :id', p)

export interface MeetingAnswer {
  email: string
  /** Which date of a series; '' for all of it. */
  recurrence: string
  sequence: number
  stamp_ms: number
  answer: GuestAnswer
  comment: string
  proposed_ms: number | null
  proposed_end: number | null
  /** It is not proven to be theirs: it waits until somebody says that it counts. Beside what is counted. */
  waits: number
}

export const answersOf = (sql: Sql, p: { id: string }): Promise<MeetingAnswer[]> =>
  sql.rows(
    `SELECT email, recurrence, sequence, stamp_ms, answer, comment, proposed_ms, proposed_end, waits
     FROM meeting_answers WHERE meeting_id = :id ORDER BY email, recurrence, waits LIMIT 400`,
    p,
  )

export const putAnswer = (
  sql: Sql,
  p: MeetingAnswer & { meetingId: string; workspaceId: string },
): Promise<void> =>
  sql.insert(
    `INSERT INTO meeting_answers (meeting_id, workspace_id, email, recurrence, sequence, stamp_ms, answer, comment, proposed_ms, proposed_end, waits)
     VALUES (:meetingId, :workspaceId, :email, :recurrence, :sequence, :stamp_ms, :answer, :comment, :proposed_ms, :proposed_end, :waits)
     ON DUPLICATE KEY UPDATE sequence = VALUES(sequence), stamp_ms = VALUES(stamp_ms), answer = VALUES(answer),
       comment = VALUES(comment), proposed_ms = VALUES(proposed_ms), proposed_end = VALUES(proposed_end)`,
    { ...p },
  )

export const dropWaiting = (
  sql: Sql,
  p: { meetingId: string; email: string; recurrence: string },
): Promise<number> =>
  sql.run(
    `DELETE FROM meeting_answers
     WHERE meeting_id = :meetingId AND email = :email AND recurrence = :recurrence AND waits = 1`,
    p,
  )
