import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { freeStarts, lastOffered, OfferTerms } from '@loom/core/offers'
import { Hono } from 'hono'
import { z } from 'zod'
import { hashOf, newToken, seal, unseal } from '../access/secrets.ts'
import { sightIn } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import { bookingsOfOffers } from '../data/repositories/bookings.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import {
  addOffer,
  agreeToOffer,
  countOffers,
  endOffer,
  type HostRow,
  hostsOfOffers,
  leaveOffer,
  lockOffer,
  offersAbout,
  type OfferRow,
} from '../data/repositories/offers.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { endBooking } from '../offers/booking.ts'
import { hostTimes } from '../offers/host-times.ts'
import type { SignedIn } from './session.ts'

/** Time that members offer to guests: made, agreed to by those whose it is, withdrawn. */

const Into = z.string().max(36).nullable()
const Given = z.object({
  terms: OfferTerms,
  hosts: z.array(z.string().max(36)).min(1).max(20),
  /** Where one's own event is written. */
  into: Into,
})
const MOST_OPEN = 100
const NO_OFFER = { reason: 'There is no such offer.' }

/** Only a calendar that one may write into. */
async function isTheirs(sql: Sql, member: Member, into: string | null): Promise<boolean> {
  return into === null || (await sightIn(sql, member)).sees(into, 'change')
}

/** Who has booked is for whoever made the offer, and for those whose time it is by their own word. */
const isTheirsToSee = (
  offer: Pick<OfferRow, 'id' | 'made_by'>,
  hosts: readonly HostRow[],
  memberId: string,
): boolean =>
  offer.made_by === memberId ||
  hosts.some(h => h.offer_id === offer.id && h.member_id === memberId && h.agreed_at !== null)

export function offerRoutes(ctx: Context) {
  const { db } = ctx
  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const { id: memberId, workspaceId } = c.get('member')
        const rows = await offersAbout(db, { workspaceId, memberId })
        const ids = rows.map(r => r.id)
        const hosts = await hostsOfOffers(db, { ids })
        const bookings = await bookingsOfOffers(db, { ids, from: ctx.now() })
        return c.json({
          // Without mail no guest could confirm.
          canMail: ctx.outgoingMail !== null,
          offers: rows.map(row => ({
            id: row.id,
            terms: parsed(row.terms),
            isMine: row.made_by === memberId,
            isOver: row.ended_at !== null || (lastOffered(parsed(row.terms)) ?? Infinity) <= ctx.now(),
            link:
              row.made_by === memberId
                ? `${ctx.publicUrl}/times#${String(unseal(row.token_sealed, ctx.secret))}`
                : null,
            hosts: hosts
              .filter(h => h.offer_id === row.id)
              .map(h => ({ id: h.member_id, name: h.name, agreed: h.agreed_at !== null })),
            bookings: bookings
              .filter(
                b => b.offer_id === row.id && b.state !== 'ended' && isTheirsToSee(row, hosts, memberId),
              )
              .map(b => ({
                id: b.id,
                state: b.state,
                startMs: Number(b.start_ms),
                endMs: Number(b.end_ms),
                guest: parsed(b.guest).name,
              })),
          })),
        })
      })
      /** What a guest would find free, before there is an offer. Of colleagues nothing is told before they agree. */
      .post('/look', zValidator('json', z.object({ terms: OfferTerms })), async c => {
        const { id, name, workspaceId } = c.get('member')
        const { terms } = c.req.valid('json')
        const draft = {
          id: '',
          workspace_id: workspaceId,
          made_by: id,
          token_sealed: '',
          terms: json(terms),
          made_at: 0,
          ended_at: null,
          workspace: '',
          maker: name,
          seq: c.get('member').seq,
        }
        const host = { offer_id: '', member_id: id, name, into_list: null, agreed_at: 0 }
        const hosts = await hostTimes(ctx, draft, terms, [host])
        const least = Math.min(...terms.lengths)
        return c.json({ starts: freeStarts(terms, least, hosts, ctx.now()).map(s => s.startMs) })
      })
      .post('/', zValidator('json', Given), async c => {
        const member = c.get('member')
        const { workspaceId, id: memberId } = member
        const { terms, hosts, into } = c.req.valid('json')
        if (!ctx.outgoingMail)
          return c.json({ reason: 'This server sends no mail, so that no guest could confirm a time.' }, 422)
        const [id, token, now] = [randomUUID(), newToken(), ctx.now()]
        const refused = await db.commit(async sql => {
          const team = new Set((await teamOfWorkspace(sql, { workspaceId })).map(m => m.id))
          if (!hosts.every(h => team.has(h))) return 'Somebody among them is no member any more.'
          if (!(await isTheirs(sql, member, into))) return 'There is no such calendar.'
          if ((await countOffers(sql, { memberId })) >= MOST_OPEN)
            return `Nobody has more than ${MOST_OPEN} offers. Withdraw some first.`
          if ((lastOffered(terms) ?? Infinity) <= now) return 'These times are over.'
          await addOffer(sql, {
            id,
            hash: hashOf(token),
            token_sealed: seal(token, ctx.secret),
            workspace_id: workspaceId,
            made_by: memberId,
            terms: json(terms),
            made_at: now,
            ended_at: null,
            hosts: [...new Set(hosts)].map(h => ({
              member_id: h,
              into_list: h === memberId ? into : null,
              agreed_at: h === memberId ? now : null,
            })),
          })
          sql.tell(workspaceId, { topics: ['team'] })
          return null
        })
        return refused === null
          ? c.json({ id, link: `${ctx.publicUrl}/times#${token}` }, 201)
          : c.json({ reason: refused }, 422)
      })
      /** One's own time may be offered there, or no longer. */
      .post('/:id/part', zValidator('json', z.object({ takes: z.boolean(), into: Into })), async c => {
        const member = c.get('member')
        const { workspaceId, id: memberId } = member
        const [id, { takes, into }] = [c.req.param('id'), c.req.valid('json')]
        const done = await db.commit(async sql => {
          const offer = await lockOffer(sql, { id, workspaceId })
          const isAsked = (await hostsOfOffers(sql, { ids: [id] })).some(h => h.member_id === memberId)
          if (!offer || !isAsked || !(await isTheirs(sql, member, into))) return false
          if (takes) await agreeToOffer(sql, { id, memberId, into, now: ctx.now() })
          else await leaveOffer(sql, { id, memberId })
          sql.tell(workspaceId, { topics: ['team'] })
          return true
        })
        return done ? c.json({ ok: true as const }) : c.json(NO_OFFER, 404)
      })
      /** Withdrawn, or standing again. What is booked stands. */
      .put('/:id/end', zValidator('json', z.object({ over: z.boolean() })), async c => {
        const { workspaceId, id: memberId } = c.get('member')
        const id = c.req.param('id')
        const { over } = c.req.valid('json')
        const done = await db.commit(async sql => {
          const offer = await lockOffer(sql, { id, workspaceId })
          if (offer?.made_by !== memberId) return false
          await endOffer(sql, { id, now: over ? ctx.now() : null })
          sql.tell(workspaceId, { topics: ['team'] })
          return true
        })
        return done ? c.json({ ok: true as const }) : c.json(NO_OFFER, 404)
      })
      /** By whoever hosts it or made the offer; the guest is told. */
      .delete('/bookings/:id', async c => {
        const { workspaceId, id: memberId } = c.get('member')
        const rows = await offersAbout(db, { workspaceId, memberId })
        const hosts = await hostsOfOffers(db, { ids: rows.map(r => r.id) })
        const seen = rows.filter(r => isTheirsToSee(r, hosts, memberId))
        const theirs = await bookingsOfOffers(db, { ids: seen.map(r => r.id), from: ctx.now() })
        const booking = theirs.find(b => b.id === c.req.param('id'))
        if (!booking || !(await endBooking(ctx, booking.id, 'host')))
          return c.json({ reason: 'There is no such booking.' }, 404)
        return c.json({ ok: true as const })
      })
  )
}
