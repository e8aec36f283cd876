import { collectionsInBrief } from '../data/repositories/collection-views.ts'
import { zValidator } from '@hono/zod-validator'
import { type Answer, lensesOf, ringsOf, settingsOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { brakedFor, conflictsFor } from '../sync/rules/waiting-for.ts'
import { rulesToChange } from '../sync/rules/rule-rights.ts'
import { seenWhole } from '../access/rights.ts'
import { answerUnconfirmed, unconfirmedFor } from '../sync/push/unconfirmed.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { ruleOf } from '../sync/rules/rules.ts'
import type { SignedIn } from './session.ts'

import { planAnew, ruleById, rulesWithPlainNames } from '../data/repositories/rules.ts'
import { conflictAt, answerConflict, type ConflictView } from '../data/repositories/conflicts.ts'
import { rulesOfBraked, answerBraked } from '../data/repositories/braked.ts'
import { carriedByRule } from '../data/repositories/journal.ts'
import { parsed, json } from '../data/json.ts'

/** Decisions for a person: conflicts, unconfirmed creations, and removals on hold. */

const Answers = z.object({
  of: z
    .array(z.object({ tie: z.string().max(36), field: z.string().max(16) }))
    .min(1)
    .max(1000),
  /** A side, or another value. */
  take: z.union([z.enum(['a', 'b']), z.object({ value: z.string().max(20_000) })]),
})

const UnconfirmedAnswer = z.object({
  of: z.array(z.string().max(36)).min(1).max(500),
  answer: z.enum(['look', 'make', 'leave']),
})

export function waitingRoutes(ctx: Context, engine: Engine) {
  const anew = async (workspaceId: string, rules: string[]): Promise<void> => {
    await ctx.db.commit(async sql => {
      if (rules.length > 0) await planAnew(sql, { rules })
      sql.tell(workspaceId, { topics: ['rules'] })
    })
    engine.requestPlan(workspaceId)
  }

  return (
    new Hono<SignedIn>()
      .get('/conflicts', async c => {
        const member = c.get('member')
        const rows = await conflictsFor(ctx.db, member)
        const conflicts = rows.map(({ base, a, b, seen, aKind, bKind, other: _, ...rest }): ConflictView => ({
          ...rest,
          base: base === null ? null : parsed(base),
          a: parsed(a),
          b: parsed(b),
          seen: parsed(seen),
          kinds: { a: aKind, b: bKind },
        }))
        return c.json({ conflicts, unconfirmed: await unconfirmedFor(ctx.db, member) })
      })
      .post('/unconfirmed', zValidator('json', UnconfirmedAnswer), async c => {
        const { of, answer } = c.req.valid('json')
        const connections = await answerUnconfirmed(ctx, c.get('member'), of, answer)
        if (connections.length === 0) return c.json({ reason: 'This is settled already.' }, 409)
        for (const id of connections) engine.kick(id)
        return c.json({ ok: true as const })
      })
      .post('/conflicts', zValidator('json', Answers), async c => {
        const { workspaceId, id: memberId } = c.get('member')
        const { of, take } = c.req.valid('json')
        const touched = new Set<string>()
        const mine = await rulesToChange(ctx.db, c.get('member'))
        for (const { tie, field } of of) {
          const row = await conflictAt(ctx.db, { tie, field, workspaceId })
          const rule = row && (await ruleById(ctx.db, { id: row.rule_id }))
          if (!row || !rule || !mine.has(rule.id)) continue
          const halves = [row.a_mirror, row.b_mirror]
          if ((await seenWhole(ctx.db, c.get('member'), [row], () => halves)).length === 0) continue
          const a = parsed(row.a)
          const b = parsed(row.b)
          let taken: Answer['take'] = typeof take === 'string' ? take : { value: take.value }
          if (typeof take === 'object') {
            if (field !== 'title' && field !== 'notes' && field !== 'location')
              return c.json({ reason: 'Only text can be written anew. Choose one of the two.' }, 422)
            const known = lensesOf(await ruleOf(ctx.db, rule)).some(l => l.field === field)
            if (!known) continue
            // A title that the rule frames is a title with its frame.
            taken = {
              value:
                typeof a === 'object' && a !== null && 'title' in a
                  ? { ...a, title: take.value }
                  : take.value,
            }
          }
          const answer: Answer = { a, b, take: taken }
          await answerConflict(ctx.db, { answer: json(answer), memberId, tie, field })
          touched.add(row.rule_id)
        }
        if (touched.size === 0) return c.json({ reason: 'These are settled already.' }, 409)
        await anew(workspaceId, [...touched])
        return c.json({ ok: true as const })
      })
      .get('/brake', async c => {
        const items = await brakedFor(ctx.db, c.get('member'))
        return c.json({ items: items.map(({ mirror: _, ...item }) => item) })
      })
      .post(
        '/brake',
        zValidator(
          'json',
          z.object({
            ties: z.array(z.string().max(36)).min(1).max(2000),
            answer: z.enum(['go', 'restore', 'none']),
          }),
        ),
        async c => {
          const { workspaceId, id: memberId } = c.get('member')
          const { ties: asked, answer } = c.req.valid('json')
          const rules = await rulesOfBraked(ctx.db, { ties: asked, workspaceId })
          const mine = await rulesToChange(ctx.db, c.get('member'))
          const whole = await seenWhole(ctx.db, c.get('member'), rules, r => [r.mirror])
          const ties = whole.flatMap(r => (mine.has(r.id) ? [r.tie] : []))
          if (ties.length === 0) return c.json({ reason: 'Nothing of this waits any more.' }, 409)
          const answered = await answerBraked(ctx.db, { answer, memberId, ties, workspaceId })
          if (answered === 0) return c.json({ reason: 'Nothing of this waits any more.' }, 409)
          await anew(
            workspaceId,
            [...new Set(rules.map(r => r.id))].filter(id => mine.has(id)),
          )
          return c.json({ ok: true as const })
        },
      )
      /** Which collections feed which through which rules, with what went over each in the last day. */
      .get('/chains', async c => {
        const { workspaceId } = c.get('member')
        const mine = await rulesToChange(ctx.db, c.get('member'))
        const rules = (await rulesWithPlainNames(ctx.db, { workspaceId })).filter(r => mine.has(r.id))
        const counts = await carriedByRule(ctx.db, { workspaceId, since: ctx.now() - 86_400_000 })
        const edges = await Promise.all(
          rules.map(async row => {
            const rule = await ruleOf(ctx.db, row)
            const { fields } = settingsOf(parsed(row.settings))
            const way = (from: 'a' | 'b') => {
              const found = counts.find(k => k.rule === row.id && k.side === (from === 'a' ? 'b' : 'a'))
              const carried = Object.values(fields).some(
                d => d === 'both' || d === (from === 'a' ? 'a-to-b' : 'b-to-a'),
              )
              return { carried, writes: found?.n ?? 0, delayMs: found?.delay ?? null }
            }
            return {
              id: row.id,
              name: row.name ?? row.plain,
              state: row.state,
              collections: rule.collections,
              kinds: rule.kinds,
              forth: way('a'),
              back: way('b'),
            }
          }),
        )
        const ids = [...new Set(edges.flatMap(e => [...e.collections.a, ...e.collections.b]))]
        const nodes = ids.length === 0 ? [] : await collectionsInBrief(ctx.db, { ids })
        const rings = ringsOf(edges).map(ring => ring.map(e => e.rule.id))
        return c.json({ nodes, edges, rings })
      })
  )
}
