import { reaches } from '@loom/core'
import { mayChangeRule, rulesToChange } from '../sync/rules/rule-rights.ts'
import { levelsOf, seenWhole } from '../access/rights.ts'
import { settingsOf, type Side } from '@loom/core'
import type { Context } from '../context/context.ts'
import type { Sql, Tx } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import { containing } from '../data/like.ts'
import { dropUnsentOfTie } from '../data/repositories/intents.ts'
import { presentMirror, remoteItemOf } from '../data/repositories/mirrors.ts'
import { lockRule, putSettingsInPlace, type RuleRow, rulesThatAreOn } from '../data/repositories/rules.ts'
import type { Member } from '../data/repositories/sessions.ts'
import {
  pairOfRule,
  pairsOfRule,
  partTie,
  tieAgain,
  type Untied,
  untiedOf,
} from '../data/repositories/ties.ts'
import { idsOfSide } from '../sync/rules/rules.ts'

/** Two items that a person says are the same work, of the two sides of a rule that is on. */

export interface Candidates {
  rule: string
  items: Untied[]
}

/** So many are remembered by a rule; those that are tied by now need not be. */
const MOST_KEPT = 1000

const other = (side: Side): Side => (side === 'a' ? 'b' : 'a')

async function sideOf(sql: Sql, rule: RuleRow, collectionId: string): Promise<Side | null> {
  for (const side of ['a', 'b'] as const)
    if ((await idsOfSide(sql, rule, side)).includes(collectionId)) return side
  return null
}

/** By each rule that could keep the item in step: what it could be tied to. */
export async function candidatesFor(
  sql: Sql,
  member: Member,
  itemId: string,
  words: string,
): Promise<Candidates[] | null> {
  const { workspaceId } = member
  if (!reaches((await levelsOf(sql, member, [itemId]))(itemId), 'everything')) return null
  const mine = await rulesToChange(sql, member)
  const row = await presentMirror(sql, { id: itemId, workspaceId })
  if (!row) return null
  const item = remoteItemOf(row)
  if (item.recurring) return []
  const found: Candidates[] = []
  for (const rule of await rulesThatAreOn(sql, { workspaceId })) {
    const side = rule.own === 1 ? null : await sideOf(sql, rule, row.collection_id)
    if (!side || !mine.has(rule.id)) continue
    const items = await untiedOf(sql, {
      rule: rule.id,
      collections: await idsOfSide(sql, rule, other(side)),
      except: itemId,
      like: containing(words),
      title: item.summary,
    })
    found.push({ rule: rule.id, items: await seenWhole(sql, member, items, i => [i.id]) })
  }
  return found
}

interface Pair {
  rule: string
  item: string
  other: string
}
export type TiedByHand = { ok: true } | { ok: false; status: 404 | 409; reason: string }

/** Ties two, or takes that back. Nothing is written at a service for it; what differs is then settled as the rule says. */
export const tieByHand = (ctx: Context, member: Member, pair: Pair, isSame: boolean): Promise<TiedByHand> =>
  ctx.db.commit(async (sql): Promise<TiedByHand> => {
    const { workspaceId } = member
    const rule = await lockRule(sql, { id: pair.rule, workspaceId })
    const one = await presentMirror(sql, { id: pair.item, workspaceId })
    const two = await presentMirror(sql, { id: pair.other, workspaceId })
    const level = await levelsOf(sql, member, [pair.item, pair.other])
    const both = [pair.item, pair.other].every(id => level(id) === 'change')
    if (!rule || !one || !two || !both || !(await mayChangeRule(sql, member, rule))) return THERE_NO_MORE
    const side = await sideOf(sql, rule, one.collection_id)
    if (!side || !(await idsOfSide(sql, rule, other(side))).includes(two.collection_id))
      return { ok: false, status: 409, reason: 'They are not the two sides of that rule.' }
    const [a, b] = side === 'a' ? [one.id, two.id] : [two.id, one.id]
    const done = isSame ? await tie(sql, rule, a, b) : await untie(sql, rule, a, b)
    if (!done) return { ok: false, status: 409, reason: 'One of the two is tied to something else by now.' }
    sql.tell(workspaceId, { topics: ['cloth', 'rules'] }, [a, b])
    return { ok: true }
  })

const THERE_NO_MORE: TiedByHand = { ok: false, status: 404, reason: 'It is no longer there.' }

async function tie(sql: Tx, rule: RuleRow, a: string, b: string): Promise<boolean> {
  const before = await pairOfRule(sql, { rule: rule.id, a, b })
  if (before?.released === null) return true
  if (before?.released === 'by-hand') return (await tieAgain(sql, { id: before.id })) > 0
  if ((await pairsOfRule(sql, { rule: rule.id, part: [a, b] })).length > 0) return false
  await keepPaired(sql, rule, list => [...list.filter(p => p !== `${a} ${b}`), `${a} ${b}`].slice(-MOST_KEPT))
  return true
}

async function untie(sql: Tx, rule: RuleRow, a: string, b: string): Promise<boolean> {
  await keepPaired(sql, rule, list => list.filter(p => p !== `${a} ${b}`))
  const tied = await pairOfRule(sql, { rule: rule.id, a, b })
  return tied?.released === null ? partByHand(sql, tied.id) : true
}

/** Whether it was tied. What waits to be written for the pair is not sent. */
export async function partByHand(sql: Tx, tieId: string): Promise<boolean> {
  if ((await partTie(sql, { id: tieId })) === 0) return false
  await dropUnsentOfTie(sql, { id: tieId, reason: 'The two were parted by hand.' })
  return true
}

async function keepPaired(sql: Tx, rule: RuleRow, change: (list: string[]) => string[]): Promise<void> {
  const settings = settingsOf(parsed(rule.settings))
  const paired = change(settings.paired)
  await putSettingsInPlace(sql, {
    id: rule.id,
    version: rule.version,
    settings: json({ ...settings, paired }),
  })
}
