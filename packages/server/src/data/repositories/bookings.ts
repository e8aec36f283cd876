import type { GuestWords } from '@loom/core/offers'
import type { Json } from '../json.ts'
import type { Sql, Tx } from '../database.ts'

/** What guests have booked of offered time, and what is held for them. */

/** Asked for and to be confirmed by mail; booked; over, with why. */
export type BookingState = 'asked' | 'booked' | 'ended'
/** Who changed it last, or why it is over. */
export type Why = 'unconfirmed' | 'guest' | 'host' | 'refused'

export interface BookingRow {
  id: string
  workspace_id: string
  offer_id: string
  token_sealed: string
  state: BookingState
  why: Why | null
  start_ms: number
  end_ms: number
  guest: Json<GuestWords>
  /** Greater with each change that the guest is told of; the last that they were told. */
  sequence: number
  told: number
  made_at: number
  /** Until then it is held unconfirmed, epoch ms. */
  expires_at: number
}

const COLUMNS = `b.id, b.workspace_id, b.offer_id, b.token_sealed, b.state, b.why, b.start_ms, b.end_ms, b.guest,
  b.sequence, b.told, b.made_at, b.expires_at`

export const addBooking = (
  sql: Sql,
  p: Omit<BookingRow, 'sequence' | 'told' | 'why'> & { hash: string; askedAs: string },
): Promise<void> =>
  sql.insert(
    `INSERT INTO bookings (id, workspace_id, offer_id, token_hash, token_sealed, asked_as, state, start_ms, end_ms, guest,
       made_at, expires_at)
     VALUES (:id, :workspace_id, :offer_id, :hash, :token_sealed, :askedAs, :state, :start_ms, :end_ms, :guest,
       :made_at, :expires_at)`,
    { ...p },
  )

export const bookingAskedAs = (
  sql: Sql,
  p: { offerId: string; askedAs: string },
): Promise<BookingRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM bookings b WHERE b.offer_id = :offerId AND b.asked_as = :askedAs`, p)

export const bookingByToken = (sql: Sql, p: { hash: string }): Promise<BookingRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM bookings b WHERE b.token_hash = :hash`, p)

export const bookingById = (sql: Sql, p: { id: string }): Promise<BookingRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM bookings b WHERE b.id = :id`, p)

export const lockBooking = (sql: Tx, p: { id: string }): Promise<BookingRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM bookings b WHERE b.id = :id FOR UPDATE`, p)

/** Those of the offers that are ahead or were so lately, in order. */
export const bookingsOfOffers = (
  sql: Sql,
  p: { ids: readonly string[]; from: number },
): Promise<BookingRow[]> =>
  p.ids.length === 0
    ? Promise.resolve([])
    : sql.rows(
        `SELECT ${COLUMNS} FROM bookings b WHERE b.offer_id IN (:ids) AND b.end_ms > :from
         ORDER BY b.start_ms, b.id LIMIT 500`,
        p,
      )

/** With each change the guest is told anew, at once. */
export const changeBooking = (
  sql: Sql,
  p: { id: string; state: BookingState; why: Why | null; start: number; end: number },
): Promise<number> =>
  sql.run(
    `UPDATE bookings SET state = :state, why = :why, start_ms = :start, end_ms = :end, sequence = sequence + 1,
       tell_at = 0 WHERE id = :id`,
    p,
  )

/** What was to make room for it, epoch ms; `to` null: it is on the shelf; `why`: it stays where it is. */
export interface GaveWay {
  title: string
  from: number
  to: number | null
  why: string | null
}

/** One event of each host, under a UID that is its own from the beginning: it is made once, whatever breaks off. */
export interface BookingEvent {
  booking_id: string
  member_id: string
  uid: string
  /** Null until its service has confirmed it. */
  mirror_id: string | null
  /** Where we wrote it last, epoch ms; null while it was not. */
  wrote_ms: number | null
  wrote_end: number | null
  /** Null where nothing did, the last time that it was written. */
  gave_way: Json<GaveWay[]> | null
}

export const addBookingEvents = (
  sql: Sql,
  p: { bookingId: string; workspaceId: string; hosts: readonly { id: string; uid: string }[] },
): Promise<void> =>
  sql.insertMany(
    'INSERT INTO booking_events (booking_id, member_id, workspace_id, uid) VALUES (?, ?, ?, ?)',
    p.hosts.map(h => [p.bookingId, h.id, p.workspaceId, h.uid]),
  )

export const eventsOfBooking = (sql: Sql, p: { id: string }): Promise<BookingEvent[]> =>
  sql.rows(
    'SELECT booking_id, member_id, uid, mirror_id, wrote_ms, wrote_end, gave_way FROM booking_events WHERE booking_id = :id ORDER BY member_id',
    p,
  )

/** What others' calendars hold of bookings: each is its host's time alone, wherever it is kept. */
export const eventsOfOtherHosts = (
  sql: Sql,
  p: { workspaceId: string; memberId: string },
): Promise<{ key: string }[]> =>
  sql.rows(
    `SELECT IFNULL(e.mirror_id, e.uid) AS \`key\` FROM booking_events e
     WHERE e.workspace_id = :workspaceId AND e.member_id <> :memberId`,
    p,
  )

export const putBookingEvent = (sql: Sql, p: BookingEvent): Promise<number> =>
  sql.run(
    `UPDATE booking_events SET mirror_id = :mirror_id, wrote_ms = :wrote_ms, wrote_end = :wrote_end, gave_way = :gave_way
     WHERE booking_id = :booking_id AND member_id = :member_id`,
    { ...p },
  )

export const dropBookingEvent = (sql: Sql, p: { bookingId: string; memberId: string }): Promise<number> =>
  sql.run('DELETE FROM booking_events WHERE booking_id = :bookingId AND member_id = :memberId', p)

/** Throws a duplicate's error where one of them is held for somebody else. */
export const holdQuarters = (
  sql: Sql,
  p: { bookingId: string; workspaceId: string; hosts: readonly string[]; from: number; to: number },
): Promise<void> =>
  sql.insertMany(
    'INSERT INTO held_quarters (member_id, quarter, booking_id, workspace_id) VALUES (?, ?, ?, ?)',
    p.hosts.flatMap(h =>
      Array.from({ length: p.to - p.from }, (_, n) => [h, p.from + n, p.bookingId, p.workspaceId]),
    ),
  )

export const freeQuarters = (sql: Sql, p: { bookingId: string }): Promise<number> =>
  sql.run('DELETE FROM held_quarters WHERE booking_id = :bookingId', p)

/** @param but a booking whose own are none */
export const heldQuarters = (
  sql: Sql,
  p: { hosts: readonly string[]; from: number; to: number; but: string },
): Promise<{ member_id: string; quarter: number }[]> =>
  sql.rows(
    `SELECT member_id, quarter FROM held_quarters WHERE member_id IN (:hosts) AND quarter >= :from AND quarter < :to
       AND booking_id <> :but`,
    p,
  )

/** How often each is booked by this offer on a time ahead. */
export const bookedStarts = (
  sql: Sql,
  p: { offerId: string; from: number; but: string },
): Promise<{ member_id: string; start_ms: number }[]> =>
  sql.rows(
    `SELECT e.member_id, b.start_ms FROM bookings b JOIN booking_events e ON e.booking_id = b.id
     WHERE b.offer_id = :offerId AND b.state IN ('asked', 'booked') AND b.start_ms >= :from AND b.id <> :but`,
    p,
  )

/** Held without being confirmed for too long. */
export const expiredBookings = (sql: Sql, p: { now: number }): Promise<{ id: string }[]> =>
  sql.rows(`SELECT id FROM bookings WHERE state = 'asked' AND expires_at <= :now LIMIT 200`, p)

/**
 * What stands otherwise than it was written: an event that is to be made, moved or removed, that its service has
 * confirmed or refused, that somebody has moved or deleted.
 */
export const bookingsAstray = (sql: Sql, p: { now: number }): Promise<{ id: string; workspace: string }[]> =>
  sql.rows(
    `SELECT DISTINCT b.id, b.workspace_id AS workspace FROM bookings b JOIN booking_events e ON e.booking_id = b.id
       LEFT JOIN mirrors m ON m.id = e.mirror_id
       LEFT JOIN intents i ON i.workspace_id = b.workspace_id AND i.uid = e.uid
     WHERE (b.state = 'ended' OR (b.state = 'booked' AND b.end_ms > :now))
       AND (e.wrote_ms IS NULL
         OR (e.mirror_id IS NULL AND IFNULL(i.state, 'dropped') NOT IN ('open', 'waiting'))
         OR (e.mirror_id IS NOT NULL AND (b.state = 'ended' OR m.id IS NULL OR m.presence = 'gone'
           OR m.start_ms <> e.wrote_ms OR b.start_ms <> e.wrote_ms
           OR m.end_ms <> e.wrote_end OR b.end_ms <> e.wrote_end)
           AND NOT EXISTS (SELECT 1 FROM intents w WHERE w.mirror_id = e.mirror_id AND w.state IN ('open', 'waiting'))))
     LIMIT 200`,
    p,
  )

/** What became of an event: its mirror, once its service has confirmed it. */
export interface Written {
  state: 'open' | 'waiting' | 'confirmed' | 'refused' | 'dropped'
  reason: string | null
  mirror_id: string | null
}
export const writtenAs = (sql: Sql, p: { workspaceId: string; uid: string }): Promise<Written | null> =>
  sql.one(
    `SELECT state, reason, mirror_id FROM intents WHERE workspace_id = :workspaceId AND uid = :uid
     ORDER BY made_seq DESC LIMIT 1`,
    p,
  )

/** Null where there is nothing any more; `unsent`: a write of it is still to be made. */
export const standsAt = (
  sql: Sql,
  p: { mirrorId: string },
): Promise<{ presence: string; start_ms: number | null; end_ms: number | null; unsent: number } | null> =>
  sql.one(
    `SELECT m.presence, m.start_ms, m.end_ms, (SELECT COUNT(*) FROM intents i WHERE i.mirror_id = m.id
       AND i.state IN ('open', 'waiting')) AS unsent FROM mirrors m WHERE m.id = :mirrorId`,
    p,
  )

/** Guests who are to be told what has changed. */
export const untoldBookings = (sql: Sql, p: { wall: number }): Promise<{ id: string }[]> =>
  sql.rows('SELECT id FROM bookings WHERE told < sequence AND tell_at <= :wall LIMIT 100', p)

/** Of several servers one tells it; where it does not come to an end, it is told after `until`. Both of the machine. */
export const claimTelling = async (
  sql: Sql,
  p: { id: string; wall: number; until: number },
): Promise<boolean> =>
  (await sql.run(
    'UPDATE bookings SET tell_at = :until WHERE id = :id AND told < sequence AND tell_at <= :wall',
    p,
  )) === 1

export const markTold = (sql: Sql, p: { id: string; sequence: number }): Promise<number> =>
  sql.run('UPDATE bookings SET told = GREATEST(told, :sequence) WHERE id = :id', p)

export const dropPastBookings = (sql: Sql, p: { before: number }): Promise<number> =>
  sql.run('DELETE FROM bookings WHERE end_ms < :before LIMIT 1000', p)
