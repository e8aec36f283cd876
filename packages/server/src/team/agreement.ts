import { randomUUID } from 'node:crypto'
import { higher, type Level, reaches } from '@loom/core'
import { z } from 'zod'
import { type Asker, sharingOf } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import type { Sql, Tx } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import { namesOfLists } from '../data/repositories/collection-views.ts'
import { consentsOf, putConsent } from '../data/repositories/consents.ts'
import {
  addRequest,
  type AskedToCarry,
  countOpenBy,
  type RequestRow,
  requestsSince,
  sayOfRequest,
} from '../data/repositories/requests.ts'
import { ruleInWorkspace, rulesThatAreOn, versionOfRule } from '../data/repositories/rules.ts'
import { lockWorkspace } from '../data/repositories/workspaces.ts'
import { RuleDraftInput } from '../sync/plan/preview.ts'
import { saveRule, stopOrGoOn, turnRule } from '../sync/plan/save-rule.ts'
import { type Ask, asksFor, audienceIn, type Need, needsOf } from '../sync/rules/audience.ts'
import { Changes, share } from './share.ts'

/**
 * Rules are a channel: whoever makes one, or shows more people what it leads to, opens by it what may belong to
 * somebody else. Such an act is not done before its owner has agreed, up to a level that they name.
 */

type Who = Asker & { workspaceId: string }

/** What is done once everybody agrees. */
const Then = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('rule'),
    draft: RuleDraftInput,
    /** The one that was changed; null for a new rule. */
    version: z.number().nullable(),
  }),
  z.object({ do: z.literal('turn on'), id: z.string() }),
  z.object({ do: z.literal('share'), given: Changes }),
])
type Then = z.infer<typeof Then>
/** What another version wrote down may not be understood: then it is as if it had to be done by hand. */
const thenOf = ({ then }: AskedToCarry): Then | null => Then.safeParse(then).data ?? null

export const MOST_OPEN = 100
export const TOO_MANY = `No more than ${MOST_OPEN} of your requests can wait. Withdraw some first.`

class Unagreed extends Error {
  constructor(readonly needs: readonly Need[]) {
    super('Not agreed to.')
  }
}

interface Terms {
  /** A rule of which all that its owners limited counts anew: it is made, changed or turned on. */
  anew?: string | null
  then?: Then | null
}

/** Not done: it is asked for. `reason` says so. */
export interface NotYet {
  asked: Ask[]
  reason: string
}

/**
 * An act that may open something to somebody, in a commit: it is done, and undone again where by rules it shows more of
 * what others own than they agreed to. Then they are asked.
 */
export async function withConsent<T>(
  ctx: Context,
  who: Who,
  { anew = null, then = null }: Terms,
  act: (sql: Tx) => Promise<T>,
): Promise<{ did: T } | NotYet> {
  const done = await attempt(ctx, who, anew, act)
  return 'did' in done ? done : ask(ctx, who, done.needs, { anew, then })
}

async function attempt<T>(
  ctx: Context,
  who: Who,
  anew: string | null,
  act: (sql: Tx) => Promise<T>,
): Promise<{ did: T } | { needs: readonly Need[] }> {
  const { workspaceId } = who
  try {
    return await ctx.db.commit(async sql => {
      // Of two who open something at once, the later sees what the other did.
      await lockWorkspace(sql, { workspaceId })
      const before = await audienceIn(sql, workspaceId)
      const did = await act(sql)
      // Only what is done about a rule changes what rules carry.
      const known = anew === null ? before.channels : null
      const after = await audienceIn(sql, workspaceId, { known })
      const needs = await needsOf(sql, who, { before, after, anew })
      if (needs.length > 0) throw new Unagreed(needs)
      return { did }
    })
  } catch (error) {
    if (error instanceof Unagreed) return { needs: error.needs }
    throw error
  }
}

async function ask(
  ctx: Context,
  who: Who,
  needs: readonly Need[],
  { anew, then }: Required<Terms>,
): Promise<NotYet> {
  const { workspaceId, id: madeBy } = who
  return ctx.db.commit(async sql => {
    const asked = await asksFor(sql, who, needs)
    const whom = [...new Set(asked.map(a => a.owner ?? 'the team'))].join(' and ')
    const opens = `Rules carry to there what belongs to ${whom}, and by this more people would see it.`
    const open = (await requestsSince(sql, { workspaceId, since: ctx.now() })).filter(
      r => r.made_by === madeBy,
    )
    const fresh = needs.flatMap(need => {
      const { rule, target, level, who: seers } = need
      const isNew = then?.do === 'rule' && then.draft.id === null && rule === anew
      const asking = { rule: isNew ? null : rule, target, level, who: seers.slice(0, 20), then }
      const body = json<AskedToCarry>({ ask: 'carry', ...asking })
      const isKnown = open.some(r => r.state === 'open' && r.collection_id === need.list && r.body === body)
      return isKnown ? [] : [{ collectionId: need.list, body }]
    })
    if (fresh.length + (await countOpenBy(sql, { memberId: madeBy })) > MOST_OPEN)
      return { asked: [], reason: `${opens} ${TOO_MANY}` }
    for (const f of fresh) {
      const request = { id: randomUUID(), workspaceId, madeBy, at: ctx.now(), mirrorId: null, ofMember: null }
      await addRequest(sql, { ...request, ...f })
    }
    sql.tell(workspaceId, { topics: ['team'] })
    const once = then === null ? 'do this again once they agree' : 'it is done as soon as they agree'
    return { asked, reason: `${opens} They have been asked under Requests: ${once}.` }
  })
}

/** What is asked for, as far as somebody may know of it. */
export interface CarryView {
  ask: 'carry'
  /** The list that is carried, where it is seen by it, and what the rule is called; null for whom they are not there. */
  place: string | null
  target: string | null
  rule: string | null
  level: Level
  who: string[]
  /** What is done once all agree; null: whoever asked does it themselves. */
  then: Then['do'] | null
}

export async function carryView(
  sql: Sql,
  who: Who,
  row: RequestRow,
  asked: AskedToCarry,
): Promise<CarryView> {
  const { sees } = (await sharingOf(sql, who.workspaceId)).sightOf(who)
  const then = thenOf(asked)
  const { workspaceId } = who
  const rule = asked.rule === null ? null : await ruleInWorkspace(sql, { id: asked.rule, workspaceId })
  const lists = [row.collection_id ?? '', asked.target]
  const names = await namesOfLists(sql, { ids: lists })
  const [place = null, target = null] = lists.map(id =>
    sees(id, 'title') ? (names.find(n => n.id === id)?.name ?? null) : null,
  )
  const sides = rule ? [rule.a_collection, rule.b_collection] : lists
  const name = rule?.name ?? (then?.do === 'rule' ? then.draft.name : null)
  return {
    ask: 'carry',
    place,
    target,
    rule: sides.every(id => sees(id, 'title')) ? name : null,
    level: asked.level,
    who: asked.who,
    then: then?.do ?? null,
  }
}

/** An owner agrees, up to a level; what they agreed to before stays agreed to. */
export async function agree(
  sql: Tx,
  { who, at }: { who: Who; at: number },
  row: RequestRow,
  asked: AskedToCarry,
  level: Level,
): Promise<void> {
  const { workspaceId, id: by } = who
  const list = row.collection_id ?? ''
  const { target } = asked
  const before = (await consentsOf(sql, { workspaceId })).find(
    c => c.collection_id === list && c.target_id === target,
  )
  const agreed = higher(before?.level ?? 'nothing', level)
  await putConsent(sql, { list, target, workspaceId, level: agreed, by, at })
  sql.tell(workspaceId, { topics: ['team', 'rules'] })
}

/** What was waiting for this answer is done once nobody else is asked for it, by the rights of whoever asked. */
export async function carryOut(
  ctx: Context,
  asker: Who,
  row: RequestRow,
  asked: AskedToCarry,
): Promise<{ did: boolean; reason: string | null }> {
  const { workspaceId } = asker
  const then = thenOf(asked)
  if (then === null) return { did: false, reason: null }
  const text = JSON.stringify(then)
  const others = (await requestsSince(ctx.db, { workspaceId, since: ctx.now() })).filter(r => {
    const body = parsed(r.body)
    const isSame = body.ask === 'carry' && JSON.stringify(thenOf(body)) === text
    return r.state === 'open' && r.made_by === asker.id && isSame
  })
  if (others.length > 0)
    return { did: false, reason: 'Others are asked as well, and it is done once they agree.' }
  const id = then.do === 'turn on' ? then.id : then.do === 'rule' ? (then.draft.id ?? randomUUID()) : null
  const done = await attempt(ctx, asker, id, sql =>
    perform(sql, { who: asker, at: ctx.now() }, then, id ?? ''),
  )
  const reason =
    'needs' in done
      ? 'What was asked for shows more than that, and is not done.'
      : done.did.ok
        ? null
        : done.did.reason
  if (reason !== null)
    await ctx.db.commit(async sql => {
      sql.tell(workspaceId, { topics: ['team'] })
      await sayOfRequest(sql, { id: row.id, state: 'lapsed', reason })
    })
  return { did: reason === null, reason }
}

async function perform(
  sql: Tx,
  acting: { who: Who; at: number },
  then: Then,
  rule: string,
): Promise<{ ok: true } | { ok: false; reason: string }> {
  if (then.do === 'share') return share(sql, { member: acting.who, at: acting.at }, then.given)
  if (then.do === 'turn on') return turnRule(sql, acting, rule, 'on')
  if (then.version !== null && (await versionOfRule(sql, { id: rule }))?.version !== then.version)
    return { ok: false, reason: 'The rule has been changed since. It has to be asked anew.' }
  return saveRule(sql, acting, then.draft, rule)
}

/** Where rules show something of a list to more people, or may, for whoever looks after it. */
export interface CarriedOn {
  target: string
  /** Null where they do not see it themselves. */
  place: string | null
  /** What its owner agreed to; null where they never said. */
  agreed: Level | null
  level: Level
  who: string[]
  /** Whether a rule that is on carries it there. */
  isOn: boolean
}

export const carriedOnFrom = async (sql: Sql, who: Who, list: string): Promise<CarriedOn[]> =>
  (await carriedBy(sql, who, list)).map(({ rules, ...told }) => ({ ...told, isOn: rules.length > 0 }))

/** And by which rules that are on: those are for who may change both their sides to know. */
async function carriedBy(
  sql: Sql,
  who: Who,
  list: string,
): Promise<(Omit<CarriedOn, 'isOn'> & { rules: string[] })[]> {
  const { workspaceId } = who
  const { sees, tends } = (await sharingOf(sql, workspaceId)).sightOf(who)
  if (!tends(list)) return []
  const { widenings, names, channels } = await audienceIn(sql, workspaceId)
  const consents = (await consentsOf(sql, { workspaceId })).filter(c => c.collection_id === list)
  const here = widenings.filter(w => w.list === list)
  const targets = [...new Set([...here.map(w => w.target), ...consents.map(c => c.target_id)])]
  const places = new Map((await namesOfLists(sql, { ids: targets })).map(n => [n.id, n.name]))
  const running = new Set((await rulesThatAreOn(sql, { workspaceId })).map(r => r.id))
  return targets.map(target => {
    const shown = here.filter(w => w.target === target)
    const all = shown.flatMap(w => names.get(w.person) ?? [])
    const people = all.some(p => p.isPerson) ? all.filter(p => p.isPerson) : all
    const rules = channels.filter(c => c.target[0] === target && c.source.includes(list)).map(c => c.rule)
    return {
      target,
      place: sees(target, 'title') ? (places.get(target) ?? null) : null,
      agreed: consents.find(c => c.target_id === target)?.level ?? null,
      level: shown.map(w => w.to).reduce(higher, 'nothing'),
      who: [...new Set(people.map(p => p.name))],
      rules: rules.filter(id => running.has(id)),
    }
  })
}

/** An owner says how much may be shown of a list from now on; rules by which more is seen stop, and remove nothing. */
export async function limitCarrying(
  sql: Tx,
  { who, at }: { who: Who; at: number },
  { list, target, level }: { list: string; target: string; level: Level },
): Promise<{ ok: true; stopped: boolean } | { ok: false; reason: string }> {
  const { workspaceId } = who
  const known = (await carriedBy(sql, who, list)).find(c => c.target === target)
  if (!known) return { ok: false, reason: 'No rule carries it there any more.' }
  await putConsent(sql, { list, target, workspaceId, level, by: who.id, at })
  const stops = reaches(level, known.level) ? [] : known.rules
  for (const rule of stops) await stopOrGoOn(sql, { who, at }, rule, 'paused')
  sql.tell(workspaceId, { topics: ['team', 'rules'] })
  return { ok: true, stopped: stops.length > 0 }
}
