import { randomUUID } from 'node:crypto'
import { brake, counted, type Decision, isRemoval, type PlanInput, type Rule, titleOfPair } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { nowDoing } from '../../work/doing.ts'
import { brakeTermsFor, homesOf, recordStopped } from './braking.ts'
import { withNeighbours } from '../log/neighbours.ts'
import { recordConflicts } from './conflicts.ts'
import type { Context } from '../../context/context.ts'
import { harmInWords, harmsOnlyItself } from '../../data/harm.ts'
import { backoff } from '../log/health.ts'
import { addIntent } from '../log/intents.ts'
import { writeJournal } from '../log/journal.ts'
import { awaitLease, type Lease } from '../../data/leases.ts'
import { takeAlong } from '../move/new-target.ts'
import { rulesWithGoers } from '../../data/repositories/moves.ts'
import { planKnowingPast } from './past-writes.ts'
import { planInput } from './plan-input.ts'
import { frozenBecause, isPlannedAnew, ruleOf, unreadBecause } from '../rules/rules.ts'
import { unrollForRules } from '../rules/series-dates.ts'
import {
  rulesThatAreOn,
  setRuleTrouble,
  setRuleWell,
  markPlannedAnew,
  advancePlannedSeq,
  setNotices,
  type RuleRow,
} from '../../data/repositories/rules.ts'
import { changeSeqOf } from '../../data/repositories/workspaces.ts'
import { putTieRow } from '../../data/repositories/ties.ts'
import type { CollectionHome } from '../../data/repositories/collections.ts'
import { parsed, json } from '../../data/json.ts'

/** Plans what the rules of a workspace ask for and records it as intents. No HTTP happens here. */

/** `kick` is told of connections as soon as they have something to write. `full` plans everything anew. */
export async function planWorkspace(
  ctx: Context,
  workspaceId: string,
  full: boolean,
  kick: (connectionId: string) => void,
): Promise<void> {
  const lease = await awaitLease(ctx, workspaceId, `rules:${workspaceId}`)
  if (!lease) return
  try {
    const [rules, going] = await Promise.all([
      rulesThatAreOn(ctx.db, { workspaceId }),
      rulesWithGoers(ctx.db, { workspaceId }),
    ])
    await unrollForRules(ctx, lease, workspaceId, rules, full)
    for (const row of rules) {
      if (!full && row.next_pass_at > Date.now()) continue
      nowDoing(`rule:${row.id}`)
      try {
        if (going.has(row.id)) for (const id of await takeAlong(ctx, row, lease)) kick(id)
        for (const id of await passOf(ctx, row, lease, full)) kick(id)
        if (row.failures > 0) await passWell(ctx, row)
      } catch (error) {
        // A rule that cannot be planned holds up no other; without a database nothing can be.
        if (!harmsOnlyItself(error)) throw error
        ctx.log.error({ err: error, ruleId: row.id }, 'a rule could not be planned')
        await passTrouble(ctx, row, error)
      }
    }
  } finally {
    await lease.release()
  }
}

/** A rule that fails is tried ever more seldom, and says so where people look at it. */
async function passTrouble(ctx: Context, row: RuleRow, error: unknown): Promise<void> {
  await ctx.db.commit(async sql => {
    await setRuleTrouble(sql, {
      id: row.id,
      trouble: harmInWords(error),
      next: Date.now() + backoff(row.failures + 2),
    })
    if (row.failures === 0)
      sql.tell(row.workspace_id, { topics: ['rules'], lists: [row.a_collection, row.b_collection] })
  })
}

async function passWell(ctx: Context, row: RuleRow): Promise<void> {
  await ctx.db.commit(async sql => {
    await setRuleWell(sql, {
      id: row.id,
    })
    sql.tell(row.workspace_id, { topics: ['rules'], lists: [row.a_collection, row.b_collection] })
  })
}

interface Planned {
  until: number
  rule: Rule | null
  input: PlanInput | null
  decisions: Decision[]
}

async function passOf(ctx: Context, row: RuleRow, lease: Lease, full: boolean): Promise<string[]> {
  const since = full || isPlannedAnew(row, ctx.now()) ? null : row.planned_seq
  const planned = await ctx.db.snapshot(async (sql): Promise<Planned | null> => {
    const [seq, frozen] = await Promise.all([
      changeSeqOf(sql, { id: row.workspace_id }),
      frozenBecause(sql, row.a_collection, row.b_collection),
    ])
    const until = seq?.change_seq ?? 0
    if (since !== null && until <= since) return null
    if (frozen) return { until, rule: null, input: null, decisions: [] }
    const rule = await ruleOf(sql, row)
    const { a, b } = rule.collections
    if (await unreadBecause(sql, [...a, ...b])) return { until, rule: null, input: null, decisions: [] }
    const input = await planInput(sql, rule, row, since, ctx.now())
    return {
      until,
      rule,
      input,
      decisions: await planKnowingPast(sql, input),
    }
  })
  if (!planned) return []
  const { until, rule, input } = planned
  if (!rule || !input) {
    await markPlannedAnew(ctx.db, { id: row.id, now: ctx.now() })
    return []
  }
  const passId = randomUUID()
  const refused: string[] = []
  /**
   * Records some of the decisions. If the database refuses one, the batch is halved until that one is alone, and
   * the others are stored.
   */
  const commit = async (part: ReadonlySet<Decision>, isLast: boolean): Promise<string[]> => {
    try {
      return await commitAtOnce(part, isLast)
    } catch (error) {
      const [only, ...more] = part
      if (!harmsOnlyItself(error) || !only) throw error
      ctx.log.warn({ err: error, ruleId: row.id, decisions: part.size }, 'a decision could not be recorded')
      if (more.length === 0) {
        refused.push(`${only.title}: ${harmInWords(error)}`)
        return isLast ? commitAtOnce(new Set(), true) : []
      }
      const all = [...part]
      const half = Math.ceil(all.length / 2)
      const before = await commit(new Set(all.slice(0, half)), false)
      return [...before, ...(await commit(new Set(all.slice(half)), isLast))]
    }
  }
  const commitAtOnce = (part: ReadonlySet<Decision>, isLast: boolean): Promise<string[]> =>
    ctx.db.commit(async sql => {
      await lease.check(sql)
      const { decisions } = planned
      const homes = await homesOf(sql, rule, decisions)
      const terms = await brakeTermsFor(ctx, sql, { rule, workspaceId: row.workspace_id }, homes, decisions)
      const braked = brake(decisions, terms)
      const { go: all, stopped } = braked
      const go = all.filter(d => part.has(d))
      await recordStopped(ctx, sql, row, homes, braked, since === null ? null : input)
      const newConflict = await recordConflicts(ctx, sql, row, go, input)
      const counts = new Set(counted(go, terms))
      const written = await record(sql, { ctx, row, rule, homes, passId }, go, counts)
      // Pairs that end and pairs that begin are drawn otherwise from now on.
      const ended = go.flatMap(d =>
        d.tie?.released || d.effect === 'match' ? [d.a, d.b].filter(id => id !== null) : [],
      )
      const isTold = written.length > 0 || stopped.length > 0 || newConflict || ended.length > 0
      if (isTold)
        sql.tell(
          row.workspace_id,
          {
            topics: newConflict || ended.length > 0 ? ['rules', 'cloth'] : ['rules'],
            exact: true,
            lists: [row.a_collection, row.b_collection],
          },
          await withNeighbours(sql, ended),
        )
      if (isLast) {
        // What it says itself changes no item: where nothing came between, that need not be planned.
        const own = isTold && ended.length === 0 ? await sql.numberAhead(row.workspace_id) : null
        await advancePlannedSeq(sql, {
          id: row.id,
          until: own === until + 1 ? own : until,
          now: ctx.now(),
          was: row.planned_seq,
          anew: since === null,
        })
      }
      return written
    })
  const connections = await commit(new Set(planned.decisions), true)
  // Notices about pairs that this pass did not plan stay.
  const again = input.pairs.map(p => `${titleOfPair(rule, p)}: `)
  const stands = parsed(row.notices).filter(n => since !== null && !again.some(title => n.startsWith(title)))
  const held = planned.decisions.flatMap(d => d.held.map(h => `${d.title}: ${h.reason}`))
  await notice(ctx, row, [...stands, ...held, ...refused])
  return connections
}

const MOST_NOTICES = 50

async function notice(ctx: Context, row: RuleRow, notices: string[]): Promise<void> {
  const text = json([...new Set(notices)].slice(0, MOST_NOTICES))
  if (text === row.notices) return
  await ctx.db.commit(async sql => {
    await setNotices(sql, { id: row.id, text })
    sql.tell(row.workspace_id, { topics: ['rules'], lists: [row.a_collection, row.b_collection] })
  })
}

/** What a pass is about. */
interface Pass {
  ctx: Context
  row: RuleRow
  rule: Rule
  /** Where writes go, by mirror id or collection id. */
  homes: Map<string, CollectionHome>
  passId: string
}

/**
 * Stores decisions and their writes. Returns the connections that have something to send; `counts`: the brake's
 * counts.
 */
async function record(
  sql: Sql,
  { ctx, row, rule, homes, passId }: Pass,
  decisions: readonly Decision[],
  counts: ReadonlySet<Decision>,
): Promise<string[]> {
  const connections = new Set<string>()
  for (const d of decisions) {
    if (!d.tie) continue
    await putTie(ctx, sql, row, d.tie, d.asBefore === true)
    for (const o of d.overridden)
      await writeJournal(sql, {
        workspaceId: row.workspace_id,
        at: ctx.now(),
        ruleId: rule.id,
        tieId: d.tie.id,
        mirrorId: o.side === 'a' ? d.a : d.b,
        collectionId: rule.home[o.side],
        title: d.title,
        op: 'override',
        cause: o.because,
        fields: [{ field: o.field, before: o.value, after: null }],
        outcome: 'overridden',
        side: o.side,
        passId,
      })
    for (const write of d.writes) {
      const home = homes.get(write.op === 'create' ? write.collectionId : write.mirrorId)
      if (!home) continue
      const added = await addIntent(sql, {
        workspaceId: row.workspace_id,
        connectionId: home.connection_id,
        collectionId: home.id,
        mirrorId: write.op === 'create' ? null : write.mirrorId,
        uid: write.op === 'create' ? write.item.uid : null,
        ruleId: rule.id,
        memberId: null,
        tieId: write.tieId,
        body: { by: 'rule', write },
        cause: d.reason,
        title: d.title,
        state: 'open',
        passId,
        removal: counts.has(d) && isRemoval(d, write),
      })
      // Another write for this item is on its way; it is planned again when that is confirmed.
      if (added) connections.add(home.connection_id)
    }
  }
  return [...connections]
}

async function putTie(
  ctx: Context,
  sql: Sql,
  row: RuleRow,
  tie: NonNullable<Decision['tie']>,
  asBefore: boolean,
): Promise<void> {
  await putTieRow(sql, {
    id: tie.id,
    workspaceId: row.workspace_id,
    rule: row.id,
    version: row.version,
    role: tie.role,
    a: tie.a,
    b: tie.b,
    base: json(tie.base),
    memory: json(tie.memory),
    released: tie.released,
    asBefore,
    now: ctx.now(),
  })
}
