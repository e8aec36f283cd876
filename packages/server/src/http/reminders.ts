import { randomUUID } from 'node:crypto'
import { zValidator } from '@hono/zod-validator'
import { Lead } from '@loom/core/view'
import { reminderName, seriesOf } from '@loom/core/reminders'
import { Hono } from 'hono'
import { z } from 'zod'
import { limitOf } from '../access/limits.ts'
import { hashOf, seal, unseal } from '../access/secrets.ts'
import { devicesOf, dropDevice, putDevice, sessionIdOf } from '../data/repositories/push.ts'
import type { Context } from '../context/context.ts'
import {
  doneWith,
  dropItemReminder,
  itemReminders,
  openReminders,
  putItemReminder,
  putOffReminder,
} from '../data/repositories/reminders.ts'
import { ourKeys, push, Subscription } from '../reminders/push.ts'
import { standingFor } from '../reminders/standing.ts'
import { DEFAULT_MINUTES } from '../view/cloth.ts'
import { itemDetails } from '../view/item-details.ts'
import { notTooOften, type SignedIn } from './session.ts'

/** What a member was reminded of and is not done with; where else they are reminded; what was said of single items. */

const DAY = 86_400_000
const MOST_ITEMS = 1000
const MOST_DEVICES = 20
const Key = z.string().min(1).max(80)
const NO_REMINDER = { reason: 'There is no such reminder any more.' }

export function reminderRoutes(ctx: Context) {
  const { db } = ctx
  // Each sends something out of the house, to an address that a browser gave.
  const tries = limitOf(db, { name: 'push-try', times: 20, seconds: 60 })
  return (
    new Hono<SignedIn>()
      // What does not stand any more is not told, whatever was given of it.
      .get('/', async c => {
        const member = c.get('member')
        const now = ctx.now()
        const open = await openReminders(db, { memberId: member.id, since: now - DAY })
        const given = open.filter(r => r.again_at === null)
        if (given.length === 0) return c.json({ given: [] })
        const { reminders } = await db.snapshot(sql => standingFor(sql, member, now))
        const standing = new Map(reminders.map(r => [reminderName(r), r]))
        return c.json({
          given: given.flatMap(row => {
            const is = standing.get(row.name)
            if (!is || now >= is.untilMs + DAY / 24) return []
            const { kind, key, title, location, aboutMs, untilMs } = is
            return [{ id: row.id, kind, key, title, location, aboutMs, untilMs, round: row.round }]
          }),
        })
      })
      .post('/done', zValidator('json', z.object({ ids: z.array(Key).min(1).max(200) })), async c => {
        const { ids } = c.req.valid('json')
        const { id: memberId, workspaceId } = c.get('member')
        const done = await db.commit(async sql => {
          sql.tell(workspaceId, { topics: ['reminders'], exact: true, only: memberId })
          return doneWith(sql, { ids, memberId, now: ctx.now() })
        })
        return done === 0 ? c.json(NO_REMINDER, 404) : c.json({ ok: true as const })
      })
      .post('/:id/later', zValidator('json', z.object({ againAt: z.number().int() })), async c => {
        const { againAt } = c.req.valid('json')
        const { id: memberId, workspaceId } = c.get('member')
        const now = ctx.now()
        if (againAt <= now || againAt > now + 7 * DAY)
          return c.json({ reason: 'It can be put off for up to a week.' }, 422)
        const put = await db.commit(async sql => {
          sql.tell(workspaceId, { topics: ['reminders'], exact: true, only: memberId })
          return putOffReminder(sql, { id: c.req.param('id'), memberId, againAt })
        })
        return put === 0 ? c.json(NO_REMINDER, 404) : c.json({ ok: true as const })
      })
      .get('/items', async c => c.json({ items: await itemReminders(db, { memberId: c.get('member').id }) }))
      .put(
        '/items/:key',
        zValidator('json', z.object({ minutes: z.union([Lead, z.literal('usual')]) })),
        async c => {
          const member = c.get('member')
          const key = seriesOf(c.req.param('key'))
          const { minutes } = c.req.valid('json')
          const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
          const seen = await db.snapshot(sql => itemDetails(sql, member, c.req.param('key'), viewer))
          if (!seen || seen.item.onlyBusy) return c.json({ reason: 'There is no such item.' }, 404)
          if (minutes === 'usual') await dropItemReminder(db, { memberId: member.id, key })
          else if ((await itemReminders(db, { memberId: member.id })).length >= MOST_ITEMS)
            return c.json(
              { reason: `That would be more than ${MOST_ITEMS} items with their own reminder.` },
              422,
            )
          else
            await putItemReminder(db, { memberId: member.id, workspaceId: member.workspaceId, key, minutes })
          return c.json({ ok: true as const })
        },
      )
      .get('/push', async c => {
        const member = c.get('member')
        const session = await sessionIdOf(db, { hash: c.get('session') })
        const devices = await devicesOf(db, { memberId: member.id, now: ctx.now() })
        return c.json({
          key: (await ourKeys(ctx)).publicKey,
          byMail: ctx.outgoingMail !== null,
          devices: devices.map(d => ({
            id: d.id,
            device: d.device,
            madeAt: d.made_at,
            here: d.session_id === session?.id,
            failures: d.failures,
          })),
        })
      })
      .post(
        '/push',
        zValidator('json', z.object({ subscription: Subscription, device: z.string().max(300).default('') })),
        async c => {
          const { subscription, device } = c.req.valid('json')
          const { id: memberId, workspaceId } = c.get('member')
          const session = await sessionIdOf(db, { hash: c.get('session') })
          if (!session) return c.json({ reason: 'Sign in first.' }, 401)
          if ((await devicesOf(db, { memberId, now: ctx.now() })).length >= MOST_DEVICES)
            return c.json(
              { reason: `That would be more than ${MOST_DEVICES} devices. Remove one first.` },
              422,
            )
          await putDevice(db, {
            id: randomUUID(),
            workspaceId,
            memberId,
            sessionId: session.id,
            hash: hashOf(subscription.endpoint),
            sealed: seal(subscription, ctx.secret),
            device,
            now: ctx.now(),
          })
          return c.json({ ok: true as const })
        },
      )
      .post(
        '/push/:id/try',
        notTooOften(tries, c => c.get('member').id),
        async c => {
          const { id: memberId } = c.get('member')
          const devices = await devicesOf(db, { memberId, now: ctx.now() })
          const device = devices.find(d => d.id === c.req.param('id'))
          if (!device) return c.json({ reason: 'There is no such device any more.' }, 404)
          const told = { title: 'It works', body: 'You will be reminded here.', to: '/day', reminder: null }
          const to = Subscription.parse(unseal(device.sealed, ctx.secret))
          const sent = await push(ctx, to, { ...told, tag: 'try' }, ctx.now() + 60_000)
          if (sent === 'gone') await dropDevice(db, { id: device.id, memberId })
          return sent === 'sent'
            ? c.json({ ok: true as const })
            : c.json({ reason: 'The service that brings messages to this device did not take it.' }, 502)
        },
      )
      .delete('/push/:id', async c => {
        const dropped = await dropDevice(db, { id: c.req.param('id'), memberId: c.get('member').id })
        return dropped === 0
          ? c.json({ reason: 'There is no such device any more.' }, 404)
          : c.json({ ok: true as const })
      })
  )
}
