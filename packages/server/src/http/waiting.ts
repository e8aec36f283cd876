import { zValidator } from '@hono/zod-validator'
import { type Answer, lensesOf, ringsOf, type Raw, type SeenSpan, settingsOf } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { answerAsked } from '../sync/push/asking.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { PLAN_ANEW, type RuleRow, ruleOf } from '../sync/rules/rules.ts'
import type { SignedIn } from './session.ts'

/** What waits for a person: conflicts, creations nobody can tell of, and removals that the brake holds. */

export interface ConflictView {
  tie: string
  field: string
  rule: string
  ruleId: string
  title: string
  reason: string
  base: { a: Raw; b: Raw } | null
  a: Raw
  b: Raw
  seen: { a: SeenSpan; b: SeenSpan }
  since: number
  aName: string
  bName: string
  kinds: { a: 'task' | 'event'; b: 'task' | 'event' }
  /** Mirror of side a, for the item's history. */
  item: string | null
}

const RULE_NAME = `IFNULL(r.name, CONCAT(a.name, ' ⇄ ', b.name))`

const Answers = z.object({
  of: z
    .array(z.object({ tie: z.string().max(36), field: z.string().max(16) }))
    .min(1)
    .max(1000),
  /** A side, or a value of somebody's own. */
  take: z.union([z.enum(['a', 'b']), z.object({ value: z.string().max(20_000) })]),
})

/** A creation of which nobody can tell whether it took effect. */
export interface AskedView {
  id: string
  title: string
  kind: 'task' | 'event'
  rule: string | null
  ruleId: string | null
  place: string
  reason: string
  since: number
}

const AskedAnswer = z.object({
  of: z.array(z.string().max(36)).min(1).max(500),
  answer: z.enum(['look', 'make', 'leave']),
})

const askedOf = (ctx: Context, workspaceId: string): Promise<AskedView[]> =>
  ctx.db.rows<AskedView>(
    `SELECT i.id, i.title, k.holds AS kind, IF(r.id IS NULL, NULL, ${RULE_NAME}) AS rule, r.id AS ruleId,
       CONCAT(n.name, ' · ', k.name) AS place, IFNULL(i.reason, '') AS reason, i.asks_since AS since
     FROM intents i JOIN collections k ON k.id = i.collection_id JOIN connections n ON n.id = i.connection_id
       LEFT JOIN rules r ON r.id = i.rule_id LEFT JOIN collections a ON a.id = r.a_collection
       LEFT JOIN collections b ON b.id = r.b_collection
     WHERE i.workspace_id = :workspaceId AND i.state = 'open' AND i.asks_since IS NOT NULL
     ORDER BY i.asks_since, i.id LIMIT 500`,
    { workspaceId },
  )

export function waitingRoutes(ctx: Context, engine: Engine) {
  const anew = async (workspaceId: string, rules: string[]): Promise<void> => {
    await ctx.db.commit(async sql => {
      if (rules.length > 0) await sql.run(`UPDATE rules SET ${PLAN_ANEW} WHERE id IN (:rules)`, { rules })
      sql.tell(workspaceId, { topics: ['rules'] })
    })
    engine.requestPlan(workspaceId)
  }

  return (
    new Hono<SignedIn>()
      .get('/conflicts', async c => {
        const { workspaceId } = c.get('member')
        const rows = await ctx.db.rows<
          Omit<ConflictView, 'base' | 'a' | 'b' | 'seen' | 'kinds'> & {
            base: string | null
            a: string
            b: string
            seen: string
            aHolds: 'task' | 'event'
            bHolds: 'task' | 'event'
          }
        >(
          `SELECT k.tie_id AS tie, k.field, ${RULE_NAME} AS rule, k.rule_id AS ruleId, k.title, k.reason, k.base, k.a, k.b,
           k.seen, k.since, CONCAT(an.name, ' · ', a.name) AS aName, CONCAT(bn.name, ' · ', b.name) AS bName,
           a.holds AS aHolds, b.holds AS bHolds, t.a_mirror AS item
         FROM conflicts k JOIN rules r ON r.id = k.rule_id LEFT JOIN ties t ON t.id = k.tie_id
           JOIN collections a ON a.id = r.a_collection JOIN collections b ON b.id = r.b_collection
           JOIN connections an ON an.id = a.connection_id JOIN connections bn ON bn.id = b.connection_id
         WHERE k.workspace_id = :workspaceId AND k.answer IS NULL ORDER BY k.since, k.tie_id LIMIT 1000`,
          { workspaceId },
        )
        const conflicts = rows.map(({ base, a, b, seen, aHolds, bHolds, ...rest }): ConflictView => ({
          ...rest,
          base: base === null ? null : (JSON.parse(base) as ConflictView['base']),
          a: JSON.parse(a) as Raw,
          b: JSON.parse(b) as Raw,
          seen: JSON.parse(seen) as ConflictView['seen'],
          kinds: { a: aHolds, b: bHolds },
        }))
        return c.json({ conflicts, asked: await askedOf(ctx, workspaceId) })
      })
      .post('/asked', zValidator('json', AskedAnswer), async c => {
        const { of, answer } = c.req.valid('json')
        const connections = await answerAsked(ctx, c.get('member').workspaceId, of, answer)
        if (connections.length === 0) return c.json({ reason: 'This is settled already.' }, 409)
        for (const id of connections) engine.kick(id)
        return c.json({ ok: true as const })
      })
      .post('/conflicts', zValidator('json', Answers), async c => {
        const { workspaceId, id: memberId } = c.get('member')
        const { of, take } = c.req.valid('json')
        const touched = new Set<string>()
        for (const { tie, field } of of) {
          const row = await ctx.db.one<{ rule_id: string; a: string; b: string }>(
            `SELECT rule_id, a, b FROM conflicts WHERE tie_id = :tie AND field = :field AND workspace_id = :workspaceId`,
            { tie, field, workspaceId },
          )
          const rule =
            row && (await ctx.db.one<RuleRow>('SELECT * FROM rules WHERE id = :id', { id: row.rule_id }))
          if (!row || !rule) continue
          const a = JSON.parse(row.a) as Raw
          const b = JSON.parse(row.b) as Raw
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
          await ctx.db.run(
            `UPDATE conflicts SET answer = :answer, answered_by = :memberId WHERE tie_id = :tie AND field = :field`,
            { answer: JSON.stringify(answer), memberId, tie, field },
          )
          touched.add(row.rule_id)
        }
        if (touched.size === 0) return c.json({ reason: 'These are settled already.' }, 409)
        await anew(workspaceId, [...touched])
        return c.json({ ok: true as const })
      })
      .get('/brake', async c => {
        const { workspaceId } = c.get('member')
        const items = await ctx.db.rows<{
          tie: string
          title: string
          reason: string
          effect: string
          side: 'a' | 'b'
          since: number
          ruleId: string
          rule: string
          place: string
          collection: string
          size: number
          removed: number
        }>(
          `SELECT k.tie_id AS tie, k.title, k.reason, k.effect, k.side, k.since, k.rule_id AS ruleId, ${RULE_NAME} AS rule,
           CONCAT(n.name, ' · ', h.name) AS place, h.id AS collection,
           (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = h.id AND m.presence = 'present') AS size,
           (SELECT COUNT(*) FROM journal j WHERE j.collection_id = h.id AND j.removal = 1 AND j.at > :since
              AND j.outcome = 'done') AS removed
         FROM braked k JOIN rules r ON r.id = k.rule_id JOIN collections a ON a.id = r.a_collection
           JOIN collections b ON b.id = r.b_collection JOIN collections h ON h.id = k.collection_id
           JOIN connections n ON n.id = h.connection_id
         WHERE k.workspace_id = :workspaceId AND k.answer IS NULL ORDER BY k.rule_id, k.collection_id, k.since, k.title
         LIMIT 2000`,
          { workspaceId, since: ctx.now() - 86_400_000 },
        )
        return c.json({ items })
      })
      .post(
        '/brake',
        zValidator(
          'json',
          z.object({ ties: z.array(z.string().max(36)).min(1).max(2000), answer: z.enum(['go', 'restore']) }),
        ),
        async c => {
          const { workspaceId, id: memberId } = c.get('member')
          const { ties, answer } = c.req.valid('json')
          const rules = await ctx.db.rows<{ id: string }>(
            'SELECT DISTINCT rule_id AS id FROM braked WHERE tie_id IN (:ties) AND workspace_id = :workspaceId',
            { ties, workspaceId },
          )
          const answered = await ctx.db.run(
            `UPDATE braked SET answer = :answer, answered_by = :memberId WHERE tie_id IN (:ties) AND workspace_id = :workspaceId`,
            { answer, memberId, ties, workspaceId },
          )
          if (answered === 0) return c.json({ reason: 'Nothing of this waits any more.' }, 409)
          await anew(
            workspaceId,
            rules.map(r => r.id),
          )
          return c.json({ ok: true as const })
        },
      )
      /** Which collections feed which through which rules, with what went over each in the last day. */
      .get('/chains', async c => {
        const { workspaceId } = c.get('member')
        const rules = await ctx.db.rows<RuleRow & { plain: string }>(
          `SELECT r.*, CONCAT(a.name, ' ⇄ ', b.name) AS plain FROM rules r JOIN collections a ON a.id = r.a_collection
           JOIN collections b ON b.id = r.b_collection WHERE r.workspace_id = :workspaceId ORDER BY r.place, r.enabled_at`,
          { workspaceId },
        )
        const counts = await ctx.db.rows<{ rule: string; side: 'a' | 'b'; n: number; delay: number | null }>(
          `SELECT rule_id AS rule, side, COUNT(*) AS n, ROUND(AVG(waited_ms)) AS delay FROM journal
         WHERE workspace_id = :workspaceId AND at > :since AND outcome = 'done' AND side IS NOT NULL AND rule_id IS NOT NULL
         GROUP BY rule_id, side`,
          { workspaceId, since: ctx.now() - 86_400_000 },
        )
        const edges = await Promise.all(
          rules.map(async row => {
            const rule = await ruleOf(ctx.db, row)
            const { fields } = settingsOf(JSON.parse(row.settings))
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
        const nodes =
          ids.length === 0
            ? []
            : await ctx.db.rows<{
                id: string
                name: string
                service: string
                dye: string
                holds: 'task' | 'event'
                items: number
              }>(
                `SELECT c.id, c.name, n.name AS service, c.dye, c.holds,
                 (SELECT COUNT(*) FROM mirrors m WHERE m.collection_id = c.id AND m.presence = 'present') AS items
               FROM collections c JOIN connections n ON n.id = c.connection_id WHERE c.id IN (:ids)`,
                { ids },
              )
        const rings = ringsOf(edges).map(ring => ring.map(e => e.rule.id))
        return c.json({ nodes, edges, rings })
      })
  )
}
