import { zValidator } from '@hono/zod-validator'
import { dayAt, daysBetween, ledgerTable, weeksTable } from '@loom/core'
import { EntryAbout, GROUPINGS, LONGEST_ENTRY, PERIODS, wholeMinutes } from '@loom/core/ledger'
import { type Context as Call, Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { clockOf, entriesOf, entriesOfItem, entryOf } from '../data/repositories/time-entries.ts'
import { takenBeside } from '../data/repositories/time-report.ts'
import {
  confirmEntries,
  correct,
  note,
  removeEntry,
  shownEntry,
  startClock,
  stopClock,
} from '../ledger/ledger.ts'
import { namesIn, teamWeeks, timeReport } from '../ledger/report.ts'
import { aboutKey } from '../view/about.ts'
import { slippingOf } from '../view/slipping.ts'
import { peopleOf } from '../view/people.ts'
import type { SignedIn } from './session.ts'

/** Time taken, the running clock and the time report: each person's own. Of the team only what may be told of all. */

const MOST_DAYS = 3 * 366
const MOST_LISTED = 500
const MOST_IN_FILE = 50_000
const Id = z.string().min(1).max(36)
const Key = z.string().min(1).max(80)

const Time = z.union([
  z
    .object({ fromMs: z.number().int().min(0), toMs: z.number().int().min(0) })
    .refine(t => wholeMinutes(t.fromMs, t.toMs) !== null, 'It ends before it begins.')
    .refine(t => t.toMs - t.fromMs <= LONGEST_ENTRY * 60_000, 'That is longer than a day.'),
  z.object({ minutes: z.number().int().min(1).max(LONGEST_ENTRY) }),
])
const Category = z.string().trim().max(200)
const Entry = z.object({
  /** What it went into: an item, or in words. */
  item: Key.nullable(),
  title: z.string().trim().max(500),
  category: Category.default(''),
  day: z.iso.date(),
  time: Time,
})
const Correction = z.object({
  version: z.number().int().min(1),
  time: Time.optional(),
  day: z.iso.date().optional(),
  category: Category.optional(),
  assumed: z.literal(false).optional(),
  withdrawn: z.boolean().optional(),
})
const span = { from: z.iso.date(), to: z.iso.date() }
const isSpan = ({ from, to }: { from: string; to: string }): boolean =>
  from < to && daysBetween(from, to) <= MOST_DAYS
const NO_SPAN = 'These days are in the wrong order, or more than three years.'
const Days = z.object(span).refine(isSpan, NO_SPAN)
const Report = z
  .object({ ...span, by: z.enum(GROUPINGS).default('category'), period: z.enum(PERIODS).default('week') })
  .refine(isSpan, NO_SPAN)
/** Of an item; or of these days all, what a grouping calls so, or what is only assumed. */
const Listed = z.union([
  z.object({ item: Key }),
  z
    .object({
      ...span,
      assumed: z.literal('yes').optional(),
      by: z.enum(GROUPINGS).optional(),
      name: z.string().max(200).optional(),
      uid: z.string().max(500).optional(),
    })
    .refine(isSpan, NO_SPAN),
])
const FUTURE = 'That has not been yet.'

export function timeRoutes(ctx: Context) {
  const listed = async (member: Member, of: z.infer<typeof Listed>) => {
    const memberId = member.id
    if ('item' in of)
      return (await entriesOfItem(ctx.db, { memberId, key: of.item, limit: MOST_LISTED })).map(shownEntry)
    const rows = await entriesOf(ctx.db, { memberId, from: of.from, to: of.to, limit: 20 * MOST_LISTED })
    const { by, name, uid } = of
    const nameOf = by === undefined ? null : await namesIn(ctx.db, member.workspaceId, by)
    return rows
      .map(shownEntry)
      .filter(
        e =>
          (of.assumed === undefined || e.assumed) &&
          (uid === undefined || e.about.uid === uid) &&
          (name === undefined || !by || nameOf?.(e.about[by]) === name),
      )
      .slice(0, MOST_LISTED)
  }
  const asFile = (c: Call, text: string, name: string) => {
    c.header('Content-Type', 'text/csv; charset=utf-8')
    c.header('Content-Disposition', `attachment; filename="${name}.csv"`)
    return c.body(text)
  }
  return new Hono<SignedIn>()
    .get('/entries', zValidator('query', Listed), async c =>
      c.json({ entries: await listed(c.get('member'), c.req.valid('query')) }),
    )
    .post('/entries', zValidator('json', Entry), async c => {
      const member = c.get('member')
      const { item, title, category, day, time } = c.req.valid('json')
      const now = ctx.now()
      const isAhead = 'minutes' in time ? day > dayAt(now, member.zone) : time.toMs > now + 60_000
      if (isAhead) return c.json({ reason: FUTURE }, 422)
      const added = await ctx.db.commit(async sql => {
        const found = item === null ? inWords(title, category) : await aboutKey(sql, member, item, now)
        if (!found) return null
        const about = category === '' ? found : { ...found, category }
        return note(sql, member, now, { time, day, source: 'hand', assumed: false, about, ref: null })
      })
      if (added === null) return c.json({ reason: 'It is no longer there.' }, 404)
      const row = await entryOf(ctx.db, { id: added, memberId: member.id })
      return row ? c.json({ entry: shownEntry(row) }, 201) : c.json({ reason: 'It is no longer there.' }, 404)
    })
    .patch('/entries/:id', zValidator('json', Correction), async c => {
      const member = c.get('member')
      const { version, ...to } = c.req.valid('json')
      if (to.time && 'toMs' in to.time && to.time.toMs > ctx.now() + 60_000)
        return c.json({ reason: FUTURE }, 422)
      if (to.day !== undefined && to.day > dayAt(ctx.now(), member.zone))
        return c.json({ reason: FUTURE }, 422)
      const id = c.req.param('id')
      const outcome = await correct(ctx, member, { id, version }, to)
      if (outcome === 'gone') return c.json({ reason: 'This entry is not there any more.' }, 404)
      if (outcome === 'changed')
        return c.json({ reason: 'It was changed in another window meanwhile. Look again.' }, 409)
      return c.json({ version: version + 1 })
    })
    .delete('/entries/:id', async c => {
      const isThere = await removeEntry(ctx, c.get('member'), c.req.param('id'))
      return isThere ? c.json({ ok: true }) : c.json({ reason: 'This entry is not there any more.' }, 404)
    })
    .post('/confirm', zValidator('json', z.object({ ids: z.array(Id).min(1).max(MOST_LISTED) })), async c =>
      c.json({ confirmed: await confirmEntries(ctx, c.get('member'), c.req.valid('json').ids) }),
    )
    .get('/clock', async c => {
      const row = await clockOf(ctx.db, { memberId: c.get('member').id })
      if (!row || row.clock_from_ms === null || row.clock_about === null) return c.json({ clock: null })
      const about: EntryAbout = parsed(row.clock_about)
      return c.json({ clock: { fromMs: Number(row.clock_from_ms), key: about.key, title: about.title } })
    })
    .post('/clock', zValidator('json', z.object({ item: Key })), async c => {
      const member = c.get('member')
      const about = await ctx.db.snapshot(sql => aboutKey(sql, member, c.req.valid('json').item, ctx.now()))
      if (!about) return c.json({ reason: 'It is no longer there.' }, 404)
      return c.json({ entry: await startClock(ctx, member, about) })
    })
    .post('/clock/stop', async c => c.json({ entry: await stopClock(ctx, c.get('member')) }))
    .get('/taken', async c => {
      const rows = await takenBeside(ctx.db, { memberId: c.get('member').id })
      return c.json({ taken: Object.fromEntries(rows.map(r => [r.key, Number(r.minutes)])) })
    })
    .get('/slipping', async c =>
      c.json({ items: await ctx.db.snapshot(sql => slippingOf(sql, c.get('member'), ctx.now())) }),
    )
    .get('/report', zValidator('query', Report), async c => {
      const member = c.get('member')
      const terms = c.req.valid('query')
      return c.json(
        await ctx.db.snapshot(async sql => {
          const { people } = await peopleOf(sql, member.workspaceId)
          const hours = people.find(p => p.id === member.id)?.hours
          if (!hours) throw new Error('whoever asks is one of the team')
          return timeReport(sql, member, hours, terms)
        }),
      )
    })
    .get('/report/file', zValidator('query', Days), async c => {
      const { from, to } = c.req.valid('query')
      const rows = await entriesOf(ctx.db, { memberId: c.get('member').id, from, to, limit: MOST_IN_FILE })
      return asFile(c, ledgerTable(rows.map(shownEntry)), `amber-loom-time-${from}`)
    })
    .get('/team', zValidator('query', Days), async c =>
      c.json(await ofTeam(ctx, c.get('member'), c.req.valid('query'))),
    )
    .get('/team/file', zValidator('query', Days), async c => {
      const days = c.req.valid('query')
      return asFile(
        c,
        weeksTable((await ofTeam(ctx, c.get('member'), days)).weeks),
        `amber-loom-team-${days.from}`,
      )
    })
}

const ofTeam = (ctx: Context, member: Member, { from, to }: { from: string; to: string }) =>
  ctx.db.commit(sql => teamWeeks(sql, member, dayAt(ctx.now(), member.zone), from, to))

const inWords = (title: string, category: string): EntryAbout | null =>
  title === ''
    ? null
    : { key: null, uid: '', title, list: '', category, kind: 'other', estimate: null, private: false }
