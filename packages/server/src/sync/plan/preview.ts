import { type Asker, sightIn } from '../../access/sight.ts'
import { type Ask, audienceOf, type Opened } from '../rules/audience.ts'
import { mayChangeRule } from '../rules/rule-rights.ts'
import { type DateAhead, seenWhole } from '../../access/rights.ts'
import { collectionsOfPair } from '../../data/repositories/sides.ts'
import { sameLists } from '../../data/repositories/collections.ts'
import { countPresentIn } from '../../data/repositories/to-plan.ts'
import {
  type Advice,
  adviceFor,
  type Rule,
  brake,
  type Decision,
  FIELD_WORDS,
  type Mirror,
  type Overridden,
  type PlanInput,
  possibleMatches,
  ringTroubles,
  RuleSettings,
  sameReach,
  settingsOf,
  type Side,
  SIDES,
  type When,
} from '@loom/core'
import { z } from 'zod'
import type { Sql } from '../../data/database.ts'
import { brakeTermsFor, homesOf } from './braking.ts'
import type { Context } from '../../context/context.ts'
import { planKnowingPast } from './past-writes.ts'
import { goingAlong } from '../move/going-along.ts'
import { planInput } from './plan-input.ts'
import { frozenBecause, ruleFor, ruleOf, unreadBecause } from '../rules/rules.ts'
import { parsed } from '../../data/json.ts'
import { weakerPromises } from './standing-notices.ts'

import { ruleBetween, otherRules, ruleInWorkspace, ruleNames } from '../../data/repositories/rules.ts'

/** What a rule would do now, from the very function that does it. Nothing is written. */

export const RuleDraftInput = z.object({
  id: z.string().max(36).nullable(),
  name: z.string().trim().min(1).max(200).nullable().default(null),
  a: z.string().max(36),
  b: z.string().max(36),
  settings: RuleSettings,
})
export type RuleDraftInput = z.infer<typeof RuleDraftInput>

/** Listed in full up to here; the counts are always of everything. */
const LISTED = 500

/** Why these two cannot be ruled like this, or null. */
export async function wrongPair(
  sql: Sql,
  workspaceId: string,
  draft: RuleDraftInput,
): Promise<string | null> {
  const sides = await collectionsOfPair(sql, { workspaceId, a: draft.a, b: draft.b })
  const a = sides.find(s => s.id === draft.a)
  const b = sides.find(s => s.id === draft.b)
  if (!a || !b) return 'One of the two sides is no longer connected.'
  if (a === b) return 'A rule pairs two different lists or calendars.'
  if (a.itemKind === 'event' && b.itemKind === 'task')
    return 'Put the task list on the first side and the calendar on the second.'
  if (!a.writable && !b.writable)
    return `${a.name} and ${b.name} can only be read, so nothing could be kept in step.`
  if (!b.writable)
    return `${b.name} can only be read, so nothing could be kept in step there. Put it on the first side.`
  if (!a.writable && a.itemKind === 'task')
    return `${a.name} can only be read, so nothing could be kept in step there.`
  const taken = await ruleBetween(sql, { a: draft.a, b: draft.b, self: draft.id ?? '' })
  if (taken) return 'Another rule pairs these two already.'
  return ringProblem(sql, workspaceId, draft)
}

/** On saving, fields that travel round a ring of rules must come back as they were. */
async function ringProblem(sql: Sql, workspaceId: string, draft: RuleDraftInput): Promise<string | null> {
  const rows = await otherRules(sql, {
    workspaceId,
    self: draft.id ?? '',
  })
  if (rows.length < 1) return null
  const others = await Promise.all(rows.map(row => ruleOf(sql, row)))
  const self = { ...(await ruleFor(sql, { ...draft, id: draft.id ?? 'new', workspaceId, newSince: null })) }
  const [trouble] = ringTroubles([...others, self]).filter(t => t.rules.includes(self.id))
  if (!trouble) return null
  return `Together with other rules this makes a ring, and the ${FIELD_WORDS[trouble.field]} would come back changed from its way round. Let it go one way only in one of them, or leave it out.`
}

export interface Preview {
  problem: string | null
  counts: Record<'make' | 'change' | 'remove' | 'match' | 'none' | 'outside' | 'conflict' | 'stopped', number>
  decisions: (Pick<Decision, 'effect' | 'on' | 'reason' | 'title' | 'a' | 'b'> & {
    overridden: Overridden[]
    held: { field: string; reason: string; a?: unknown; b?: unknown }[]
    fields: { side: Side; field: string; before: unknown; after: unknown }[]
    stopped: boolean
  })[]
  sides: { a: number; b: number }
  /** Tied items that go along to another calendar or list than before. */
  moving: number
  kinds: { a: 'task' | 'event'; b: 'task' | 'event' }
  /** Where the rule promises less than elsewhere. */
  weaker: string[]
  /** Why nothing would be made, and a step that changes it. */
  advice: Advice | null
  /** What stands in a calendar already, and would then stand in two. */
  twice: string | null
  /** What may be the same work by its title, which a person can tie. */
  possible: { pair: string; title: string; a: PossibleSide; b: PossibleSide }[]
  /** Whom it would show more of a side than they see of it there. */
  opened: Opened[]
  /** Whose agreement that needs: saving asks them. */
  asks: Ask[]
}

/** Of an item: when it is, or that it has no date. */
export interface PossibleSide {
  kind: 'task' | 'event'
  title: string
  when: When | null
}

const NO_COUNTS = { make: 0, change: 0, remove: 0, match: 0, none: 0, outside: 0, conflict: 0, stopped: 0 }

export interface Progress {
  read: number
  of: number
}

/** Previews under way on this server, by the name that the page gave them. */
const underway = new Map<string, Progress>()
/** How far one of this workspace has come; null when it is done, or never was. */
export const progressOf = (workspaceId: string, watch: string): Progress | null =>
  underway.get(`${workspaceId} ${watch}`) ?? null

/** @param who sees only what is theirs to see of it: items that are private to somebody are not among it */
export async function previewRule(
  ctx: Context,
  who: Asker & { workspaceId: string },
  draft: RuleDraftInput,
  watch: string | null = null,
): Promise<Preview> {
  const { workspaceId } = who
  if (watch === null) return lookThrough(ctx, who, draft, { read: 0, of: 0 })
  const progress: Progress = { read: 0, of: 0 }
  underway.set(`${workspaceId} ${watch}`, progress)
  try {
    return await lookThrough(ctx, who, draft, progress)
  } finally {
    underway.delete(`${workspaceId} ${watch}`)
  }
}

/** A list whose tasks, by whatever account they come in, stand in another calendar by another rule already. */
async function standsTwice(
  sql: Sql,
  who: Asker & { workspaceId: string },
  rule: Rule,
): Promise<string | null> {
  const { workspaceId } = who
  if (rule.kinds.a !== 'task' || rule.kinds.b !== 'event') return null
  const names = new Map((await ruleNames(sql, { workspaceId })).map(r => [r.id, r.name]))
  // Of a colleague's account that brings the same list in, only whoever may see that is told.
  const sight = await sightIn(sql, who)
  const same = await sameLists(sql, { workspaceId, ids: rule.collections.a })
  const here = [...rule.collections.a, ...same.filter(id => sight.sees(id, 'title'))]
  for (const row of await otherRules(sql, { workspaceId, self: rule.id })) {
    const other = await ruleOf(sql, row)
    const shares = other.collections.a.some(c => here.includes(c))
    if (!shares || other.kinds.a !== 'task' || other.kinds.b !== 'event') continue
    if (other.home.b === rule.home.b) continue
    const by = (await mayChangeRule(sql, who, row)) ? `the rule “${names.get(row.id) ?? ''}”` : 'another rule'
    return `Its tasks stand in a calendar already, by ${by}. With this rule each of them stands in two calendars.`
  }
  return null
}

const MOST_POSSIBLE = 100

const possibleSide = ({ item }: Mirror, date: 'start' | 'due'): PossibleSide => ({
  kind: item.kind,
  title: item.summary,
  when: item.kind === 'event' ? item.time.anchor : item[date],
})

/** Untied items of one title that the plan does not match. */
function possibleIn(rule: Rule, input: PlanInput, decisions: readonly Decision[]): Preview['possible'] {
  const tied = new Set(decisions.flatMap(d => (d.effect === 'match' ? [d.a, d.b] : [])))
  const free = (side: Side): Mirror[] =>
    input.untied[side].filter(m => !tied.has(m.id) && !input.released.has(m.id))
  return possibleMatches(rule, free('a'), free('b'))
    .slice(0, MOST_POSSIBLE)
    .map(({ a, b }) => ({
      pair: `${a.id} ${b.id}`,
      title: a.item.summary,
      a: possibleSide(a, rule.settings.date),
      b: possibleSide(b, rule.settings.date),
    }))
}

export const nothingToPreview = (because: string): Preview => ({
  problem: because,
  counts: NO_COUNTS,
  decisions: [],
  sides: { a: 0, b: 0 },
  moving: 0,
  kinds: { a: 'task', b: 'event' },
  weaker: [],
  advice: null,
  opened: [],
  asks: [],
  twice: null,
  possible: [],
})

async function lookThrough(
  ctx: Context,
  who: Asker & { workspaceId: string },
  draft: RuleDraftInput,
  progress: Progress,
): Promise<Preview> {
  const { workspaceId } = who
  return ctx.db.snapshot(async sql => {
    const existing = draft.id
      ? await ruleInWorkspace(sql, {
          id: draft.id,
          workspaceId,
        })
      : null
    const problem = (await wrongPair(sql, workspaceId, draft)) ?? (await frozenBecause(sql, draft.a, draft.b))
    if (problem) return nothingToPreview(problem)
    const settings = settingsOf(draft.settings)
    const { opened, asks } = await audienceOf(sql, who, { ...draft, settings })
    const rule = await ruleFor(sql, {
      id: existing?.id ?? 'preview',
      workspaceId,
      a: draft.a,
      b: draft.b,
      settings,
      newSince:
        existing && sameReach(settingsOf(parsed(existing.settings)), settings)
          ? existing.new_since
          : ctx.now(),
    })
    const unread = await unreadBecause(sql, [...rule.collections.a, ...rule.collections.b])
    if (unread) return nothingToPreview(unread)
    const held = await countPresentIn(sql, { collections: [...rule.collections.a, ...rule.collections.b] })
    progress.of = Number(held?.n ?? 0)
    const ahead: DateAhead[] = []
    const input = await planInput(sql, rule, existing, null, ctx.now(), {
      onRead: n => (progress.read += n),
      onAhead: date => ahead.push(date),
    })
    const decisions = await planKnowingPast(sql, input)
    const homes = await homesOf(sql, rule, decisions)
    const stopped = new Set(
      brake(decisions, await brakeTermsFor(ctx, sql, { rule, workspaceId }, homes, decisions)).stopped,
    )
    const telling = decisions.filter(
      d =>
        d.effect !== 'none' ||
        ['no-hour', 'outside', 'held', 'would-not-fit', 'series', 'diverged'].includes(d.reason),
    )
    const shown = await seenWhole(sql, who, telling, d => [d.a, d.b], ahead)
    const counts = { ...NO_COUNTS }
    for (const d of shown) {
      if (stopped.has(d)) {
        counts.stopped++
        continue
      }
      if (d.held.length > 0) counts.conflict++
      if (d.reason === 'outside') counts.outside++
      else if (d.effect === 'match') {
        counts.match++
        if (d.writes.length > 0) counts.change++
      } else if (d.effect !== 'release' && d.held.length === 0) counts[d.effect]++
    }
    return {
      problem: null,
      counts,
      kinds: rule.kinds,
      weaker: await weakerPromises(
        sql,
        SIDES.flatMap(s => rule.collections[s]),
      ),
      advice: shown.some(d => d.effect !== 'none') ? null : adviceFor(rule, input),
      opened,
      asks,
      twice: await standsTwice(sql, who, rule),
      possible: await seenWhole(sql, who, possibleIn(rule, input, decisions), p => p.pair.split(' '), ahead),
      moving:
        existing && existing.b_collection !== draft.b
          ? await goingAlong(sql, existing.id, existing.b_collection)
          : 0,
      sides: {
        a: input.untied.a.length + input.pairs.length,
        b: input.untied.b.length + input.pairs.length,
      },
      decisions: shown.slice(0, LISTED).map(d => ({
        effect: d.effect,
        on: d.on,
        reason: d.reason,
        title: d.title,
        a: d.a,
        b: d.b,
        overridden: d.overridden,
        held: d.held.map(h => ({
          field: h.field,
          reason: h.reason,
          ...(h.conflict && { a: h.conflict.a, b: h.conflict.b }),
        })),
        fields: d.writes.flatMap(w => w.fields.map(f => ({ side: w.side, ...f }))),
        stopped: stopped.has(d),
      })),
    }
  })
}
