import type { OfferTerms } from '@loom/core/offers'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Time that is offered to guests, and by whom. */

export interface OfferRow {
  id: string
  workspace_id: string
  made_by: string
  /** By our key, so that whoever made it can copy its address again. */
  token_sealed: string
  terms: Json<OfferTerms>
  made_at: number
  /** When it was withdrawn; null while it stands. */
  ended_at: number | null
}

export interface HostRow {
  offer_id: string
  member_id: string
  name: string
  /** Where their event is written; null: in Amber Loom alone. */
  into_list: string | null
  /** Null until they have said that their time may be offered, and for whoever has left. */
  agreed_at: number | null
}

const COLUMNS = 'o.id, o.workspace_id, o.made_by, o.token_sealed, o.terms, o.made_at, o.ended_at'

export async function addOffer(
  sql: Sql,
  p: OfferRow & { hash: string; hosts: readonly Pick<HostRow, 'member_id' | 'into_list' | 'agreed_at'>[] },
): Promise<void> {
  const { hosts, ...offer } = p
  await sql.insert(
    `INSERT INTO offers (id, workspace_id, made_by, token_hash, token_sealed, terms, made_at, ended_at)
     VALUES (:id, :workspace_id, :made_by, :hash, :token_sealed, :terms, :made_at, :ended_at)`,
    { ...offer },
  )
  await sql.insertMany(
    'INSERT INTO offer_hosts (offer_id, member_id, workspace_id, place, into_list, agreed_at) VALUES (?, ?, ?, ?, ?, ?)',
    hosts.map((h, n) => [p.id, h.member_id, p.workspace_id, n, h.into_list, h.agreed_at]),
  )
}

/** Of one person: those that they made, and those in which they are asked for their time. */
export const offersAbout = (sql: Sql, p: { workspaceId: string; memberId: string }): Promise<OfferRow[]> =>
  sql.rows(
    `SELECT ${COLUMNS} FROM offers o WHERE o.workspace_id = :workspaceId
       AND (o.made_by = :memberId OR EXISTS
         (SELECT 1 FROM offer_hosts h WHERE h.offer_id = o.id AND h.member_id = :memberId))
     ORDER BY o.made_at DESC, o.id LIMIT 200`,
    p,
  )

export const countOffers = async (sql: Sql, p: { memberId: string }): Promise<number> =>
  (
    await sql.one<{ n: number }>(
      'SELECT COUNT(*) AS n FROM offers WHERE made_by = :memberId AND ended_at IS NULL',
      p,
    )
  )?.n ?? 0

export const lockOffer = (sql: Sql, p: { id: string; workspaceId: string }): Promise<OfferRow | null> =>
  sql.one(`SELECT ${COLUMNS} FROM offers o WHERE o.id = :id AND o.workspace_id = :workspaceId FOR UPDATE`, p)

/** One that stands, of a maker who is still there, with where it is. */
export interface OpenOffer extends OfferRow {
  workspace: string
  maker: string
  seq: number
}
const OPEN = `SELECT ${COLUMNS}, w.name AS workspace, m.name AS maker, c.change_seq AS seq FROM offers o
   JOIN workspaces w ON w.id = o.workspace_id AND w.deleted_at IS NULL
   JOIN members m ON m.id = o.made_by AND m.left_at IS NULL
   JOIN change_counters c ON c.workspace_id = w.id`

export const openOffer = (sql: Sql, p: { hash: string }): Promise<OpenOffer | null> =>
  sql.one(`${OPEN} WHERE o.token_hash = :hash AND o.ended_at IS NULL`, p)

/** Also one that was withdrawn: what was booked stands. */
export const offerOfBooking = (sql: Sql, p: { id: string }): Promise<OpenOffer | null> =>
  sql.one(`${OPEN} WHERE o.id = :id`, p)

export const hostsOfOffers = (sql: Sql, p: { ids: readonly string[] }): Promise<HostRow[]> =>
  p.ids.length === 0
    ? Promise.resolve([])
    : sql.rows(
        `SELECT h.offer_id, h.member_id, m.name, h.into_list, IF(m.left_at IS NULL, h.agreed_at, NULL) AS agreed_at
           FROM offer_hosts h JOIN members m ON m.id = h.member_id
         WHERE h.offer_id IN (:ids) ORDER BY h.offer_id, h.place`,
        p,
      )

export const agreeToOffer = (
  sql: Sql,
  p: { id: string; memberId: string; into: string | null; now: number | null },
): Promise<number> =>
  sql.run(
    'UPDATE offer_hosts SET agreed_at = :now, into_list = :into WHERE offer_id = :id AND member_id = :memberId',
    p,
  )

export const leaveOffer = (sql: Sql, p: { id: string; memberId: string }): Promise<number> =>
  sql.run('DELETE FROM offer_hosts WHERE offer_id = :id AND member_id = :memberId', p)

export const endOffer = (sql: Sql, p: { id: string; now: number | null }): Promise<number> =>
  sql.run('UPDATE offers SET ended_at = :now WHERE id = :id', p)

/** Services with calendars that take part, and are well: of them a look can be waited for. */
export const connectionsOfHosts = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ id: string; last_ok_at: number | null }[]> =>
  sql.rows(
    `SELECT c.id, l.last_ok_at FROM connections c JOIN look_times l ON l.connection_id = c.id
     WHERE c.workspace_id = :workspaceId AND c.kind <> 'own' AND c.paused = 0 AND c.state = 'ok'
       AND EXISTS (SELECT 1 FROM collections k
         WHERE k.connection_id = c.id AND k.item_kind = 'event' AND k.takes_part = 1)
     LIMIT 20`,
    p,
  )

export const lastReadOf = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<{ id: string; last_ok_at: number | null }[]> =>
  sql.rows('SELECT connection_id AS id, last_ok_at FROM look_times WHERE connection_id IN (:ids)', p)
