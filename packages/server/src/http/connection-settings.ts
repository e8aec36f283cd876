import { collectionSettings } from '../data/repositories/collection-views.ts'
import { zValidator } from '@hono/zod-validator'
import type { Meanings } from '@loom/connectors'
import { Meaning } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { discoverAnew } from '../connecting/discover-anew.ts'
import { areMembers, DYES, membersOf, putCollection, withoutParts } from '../connecting/connect-service.ts'
import { countListing, searchListing } from '../connecting/listings.ts'
import { applySettings, connectorWith, effectOf } from '../connecting/settings.ts'
import { connectorOf, type Context, scopeOf } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { Asked, Kept, NO_MEMBER } from './connecting.ts'
import { asked, connectionIn, GONE } from './one-connection.ts'
import type { SignedIn } from './session.ts'
import { choose, countCollectionsOf, idAtService } from '../data/repositories/collections.ts'
import { peopleSettings, picksOf, meAtService } from '../data/repositories/people.ts'
import { parsed } from '../data/json.ts'

/** What comes in from a connection and what its words mean, changed later. */
export function connectionSettingsRoutes(ctx: Context, engine: Engine) {
  return (
    new Hono<SignedIn>()
      .get('/:id/settings', async c => {
        const { workspaceId } = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        const collections = await collectionSettings(ctx.db, { id: row.id })
        const people = await peopleSettings(ctx.db, { id: row.id })
        const picks = await picksOf(ctx.db, { id: row.id })
        const members = await membersOf(ctx.db, workspaceId)
        return c.json({
          name: row.name,
          ownerId: row.owner_id,
          scope: scopeOf(row),
          collections: collections.map(({ takesPart, terms, meaning, unknown, ...k }) => ({
            ...k,
            takesPart: takesPart === 1,
            terms: parsed(terms),
            meaning: meaning ? Meaning.parse(parsed(meaning)) : null,
            unknown: parsed(unknown),
          })),
          people: people.map(p => ({ ...p, me: p.me === 1 })),
          picks: picks.map(p => p.remote_id),
          members: members.map(({ id, name }) => ({ id, name })),
        })
      })
      .post('/:id/settings/count', zValidator('json', Asked), async c => {
        const member = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), member)
        if (!row) return c.json(GONE, 404)
        const { takesPart, filter, meanings } = c.req.valid('json')
        const me = await meAtService(ctx.db, { id: row.id })
        const connector = await connectorWith(ctx, row, meanings as Meanings)
        const terms = { me: me?.remote_id ?? null, now: ctx.now(), zone: member.zone }
        return c.json(
          countListing(
            { key: row.id, background: ctx.background },
            connector,
            withoutParts(takesPart),
            filter,
            terms,
          ),
        )
      })
      .post(
        '/:id/settings/search',
        zValidator('json', z.object({ takesPart: z.array(z.string()), words: z.string().max(200) })),
        async c => {
          const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
          if (!row) return c.json(GONE, 404)
          const { takesPart, words } = c.req.valid('json')
          return c.json(
            searchListing(
              { key: row.id, background: ctx.background },
              await connectorOf(ctx, row),
              withoutParts(takesPart),
              words,
            ),
          )
        },
      )
      .post('/:id/settings/effect', zValidator('json', Kept), async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        return row ? c.json(await effectOf(ctx, row, c.req.valid('json'))) : c.json(GONE, 404)
      })
      .put('/:id/settings', zValidator('json', Kept), async c => {
        const { workspaceId } = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        if (!(await areMembers(ctx.db, workspaceId, c.req.valid('json')))) return c.json(NO_MEMBER, 422)
        await applySettings(ctx, row, c.req.valid('json'))
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
      .put(
        '/:id/collections',
        zValidator('json', z.object({ takesPart: z.array(z.string().max(500)).max(500) })),
        async c => {
          const { workspaceId } = c.get('member')
          const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
          if (!row) return c.json(GONE, 404)
          const takesPart = withoutParts(c.req.valid('json').takesPart)
          await ctx.db.commit(async sql => {
            await choose(sql, { id: row.id, chosen: takesPart.length > 0 ? takesPart : [''] })
            sql.tell(workspaceId, { topics: ['connections', 'cloth', 'rules'] })
          })
          await engine.look(row.id)
          return c.json({ ok: true as const })
        },
      )
      /** A new calendar or list at the service, which takes part at once. */
      .post(
        '/:id/collections',
        zValidator('json', z.object({ name: z.string().trim().min(1).max(100) })),
        async c => {
          const { workspaceId } = c.get('member')
          const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
          if (!row) return c.json(GONE, 404)
          const connector = await connectorOf(ctx, row)
          const { makeCollection } = connector
          if (!makeCollection)
            return c.json({ reason: `${row.name} makes no calendars or lists for us.` }, 409)
          const used = await countCollectionsOf(ctx.db, { id: row.id })
          const dye = DYES[(used?.n ?? 0) % DYES.length] ?? '#44566C'
          const made = await asked(() => makeCollection(c.req.valid('json').name, dye))
          if (!made.ok) return c.json({ reason: made.reason, trouble: made.trouble }, 422)
          const id = await ctx.db.commit(async sql => {
            const at = { workspaceId, connectionId: row.id }
            await putCollection(sql, at, made.value, {
              takesPart: true,
              dye,
              meaning: null,
              colleagues: 'nothing',
            })
            sql.tell(workspaceId, { topics: ['connections'] })
            return idAtService(sql, { connection: row.id, remoteId: made.value.remoteId })
          })
          await engine.look(row.id)
          return c.json({ id }, 201)
        },
      )
      /** Asks the service anew which lists, people and statuses it has. */
      .post('/:id/refresh', async c => {
        const row = await connectionIn(ctx, c.req.param('id'), c.get('member'))
        if (!row) return c.json(GONE, 404)
        const connector = await connectorOf(ctx, row)
        const found = await asked(() => discoverAnew(ctx, row, connector))
        if (!found.ok) return c.json({ reason: found.reason, trouble: found.trouble }, 422)
        await engine.look(row.id)
        return c.json({ found: found.value })
      })
  )
}
