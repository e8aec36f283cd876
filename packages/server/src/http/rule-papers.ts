import { sightIn } from '../access/sight.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { mayChangeRule } from '../sync/rules/rule-rights.ts'
import { collectionNames } from '../data/repositories/collection-views.ts'
import { zValidator } from '@hono/zod-validator'
import { settingsOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import type { SignedIn } from './session.ts'
import { ruleInWorkspace, versionsOf } from '../data/repositories/rules.ts'
import { parsed } from '../data/json.ts'

/** A rule on paper: its earlier versions, and its form for carrying it elsewhere. */

/** Lists and calendars are told by name, so that a rule can be read by people and brought in elsewhere. */
const Paper = z.object({
  format: z.literal('amber-loom-rule'),
  version: z.literal(1),
  name: z.string().trim().min(1).max(200).nullable(),
  a: z.object({ service: z.string().max(200), list: z.string().max(200) }),
  b: z.object({ service: z.string().max(200), list: z.string().max(200) }),
  settings: z.unknown(),
})

export function rulePaperRoutes(ctx: Context) {
  const row = async (id: string, member: Member) => {
    const found = await ruleInWorkspace(ctx.db, { id, workspaceId: member.workspaceId })
    return found && (await mayChangeRule(ctx.db, member, found)) ? found : null
  }
  const places = async (member: Member) => {
    const sight = await sightIn(ctx.db, member)
    const all = await collectionNames(ctx.db, { workspaceId: member.workspaceId })
    return all.filter(k => sight.sees(k.id, 'title'))
  }

  return (
    new Hono<SignedIn>()
      .get('/:id/versions', async c => {
        const { workspaceId } = c.get('member')
        if (!(await row(c.req.param('id'), c.get('member'))))
          return c.json({ reason: 'There is no such rule.' }, 404)
        const rows = await versionsOf(ctx.db, { id: c.req.param('id'), workspaceId })
        if (rows.length === 0) return c.json({ reason: 'There is no such rule.' }, 404)
        return c.json({ versions: rows.map(r => ({ ...r, settings: settingsOf(parsed(r.settings)) })) })
      })
      .get('/:id/paper', async c => {
        const rule = await row(c.req.param('id'), c.get('member'))
        if (!rule) return c.json({ reason: 'There is no such rule.' }, 404)
        const known = await places(c.get('member'))
        const named = (id: string) => {
          const { service, list } = known.find(k => k.id === id) ?? { service: '', list: '' }
          return { service, list }
        }
        // Further lists and declined matches are of this workspace alone.
        const settings = {
          ...settingsOf(parsed(rule.settings)),
          also: { a: [], b: [] },
          declined: [],
          paired: [],
        }
        const paper = {
          format: 'amber-loom-rule' as const,
          version: 1 as const,
          name: rule.name,
          a: named(rule.a_collection),
          b: named(rule.b_collection),
          settings,
        }
        return c.json(paper)
      })
      /** Reads an exported rule as a draft. Nothing is stored before the draft is saved. */
      .post('/paper', zValidator('json', z.object({ text: z.string().max(200_000) })), async c => {
        let given: unknown
        try {
          given = JSON.parse(c.req.valid('json').text)
        } catch {
          return c.json({ reason: 'This is not JSON.' }, 422)
        }
        const paper = Paper.safeParse(given)
        if (!paper.success)
          return c.json({ reason: 'This is not a rule that was written out by Amber Loom.' }, 422)
        try {
          const settings = settingsOf(paper.data.settings)
          const known = await places(c.get('member'))
          const find = (of: { service: string; list: string }) =>
            known.find(k => k.service === of.service && k.list === of.list)?.id ??
            known.find(k => k.list === of.list)?.id ??
            null
          return c.json({ name: paper.data.name, a: find(paper.data.a), b: find(paper.data.b), settings })
        } catch (error) {
          if (!(error instanceof z.ZodError)) throw error
          const issue = error.issues[0]
          return c.json(
            { reason: `Its settings do not fit: ${issue?.path.join('.')}: ${issue?.message}` },
            422,
          )
        }
      })
  )
}
