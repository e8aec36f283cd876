import { sameReach, settingsOf } from '@loom/core'
import type { Asker } from '../../access/sight.ts'
import type { Sql, Tx } from '../../data/database.ts'
import { json, parsed } from '../../data/json.ts'
import { collectionNames } from '../../data/repositories/collection-views.ts'
import { logSharing, type RuleAct } from '../../data/repositories/grants.ts'
import { dropUnsentOfRule } from '../../data/repositories/intents.ts'
import {
  addRule,
  addVersion,
  changeRule,
  type RuleRow,
  ruleToChange,
  setRuleState,
  versionOfRule,
} from '../../data/repositories/rules.ts'
import { countKinds } from '../../data/repositories/sides.ts'
import { dropUnsentTies } from '../../data/repositories/ties.ts'
import { goAlong } from '../move/going-along.ts'
import { type RuleDraftInput, wrongPair } from './preview.ts'
import { mayChangeRule, mayPair, NOT_BOTH_SIDES } from '../rules/rule-rights.ts'
import { collectionsOfRule, frozenBecause } from '../rules/rules.ts'

/** Making a rule, changing one, pausing it and turning it on, by whoever may change both its sides. */

type Who = Asker & { workspaceId: string }
export interface Acting {
  who: Who
  /** Epoch ms. */
  at: number
}

export type SavedRule = { ok: true } | { ok: false; status: 404 | 422; reason: string }

const no = (status: 404 | 422, reason: string): SavedRule => ({ ok: false, status, reason })
const NO_RULE = no(404, 'There is no such rule.')
const CHANGED = no(404, 'This rule is no longer there, or pairs something else.')

/** A rule that this person may change, or null. */
export async function ruleOfTheirs(sql: Sql, who: Who, id: string): Promise<RuleRow | null> {
  const row = await ruleToChange(sql, { id, workspaceId: who.workspaceId })
  return row && (await mayChangeRule(sql, who, row)) ? row : null
}

/** For the activity of the team. */
export async function logRule(sql: Sql, { who, at }: Acting, id: string, did: RuleAct): Promise<void> {
  const { id: memberId, workspaceId } = who
  const row = await ruleToChange(sql, { id, workspaceId })
  if (!row) return
  const known = await collectionNames(sql, { workspaceId })
  const nameOf = (list: string): string => known.find(k => k.id === list)?.list ?? ''
  const name = row.name ?? `${nameOf(row.a_collection)} ⇄ ${nameOf(row.b_collection)}`
  const act = { do: 'rule' as const, name, did, lists: await collectionsOfRule(sql, row) }
  await logSharing(sql, { workspaceId, at, memberId, collectionId: null, act })
}

/** Drops unsent writes, which are planned again. A dropped creation takes its tie along. */
async function dropUnsent(sql: Sql, id: string, reason: string): Promise<void> {
  await dropUnsentTies(sql, { id })
  await dropUnsentOfRule(sql, { id, reason })
}

/** @param id of the rule that is made, or of that which the draft changes */
export async function saveRule(
  sql: Tx,
  { who, at }: Acting,
  draft: RuleDraftInput,
  id: string,
): Promise<SavedRule> {
  const { workspaceId, id: memberId } = who
  if (!(await mayPair(sql, who, draft))) return no(422, NOT_BOTH_SIDES)
  const problem = (await wrongPair(sql, workspaceId, draft)) ?? (await frozenBecause(sql, draft.a, draft.b))
  if (problem) return no(422, problem)
  const settings = json(draft.settings)
  const before = draft.id ? await ruleOfTheirs(sql, who, draft.id) : null
  if (draft.id && !before) return NO_RULE
  const moves = before !== null && before.b_collection !== draft.b
  const reachesAsBefore =
    before !== null && !moves && sameReach(settingsOf(parsed(before.settings)), draft.settings)
  if (moves && !(await holdSame(sql, before.b_collection, draft.b)))
    return no(422, 'It holds something else than what this rule has made so far.')
  const { name, a, b } = draft
  if (before) {
    const newSince = reachesAsBefore ? before.new_since : at
    if ((await changeRule(sql, { id, workspaceId, settings, name, a, b, newSince })) === 0) return CHANGED
    if (moves) {
      await dropUnsent(sql, id, 'The rule pairs with something else now.')
      await goAlong(sql, id, before.b_collection, memberId)
    }
  } else await addRule(sql, { id, workspaceId, name, a, b, settings, now: at })
  const version = (await versionOfRule(sql, { id }))?.version ?? 1
  await addVersion(sql, { ruleId: id, version, workspaceId, settings, now: at, memberId })
  await logRule(sql, { who, at }, id, draft.id ? 'changed' : 'made')
  sql.tell(workspaceId, { topics: ['rules', 'team'] })
  return { ok: true }
}

async function holdSame(sql: Sql, one: string, other: string): Promise<boolean> {
  const row = await countKinds(sql, { ids: [one, other] })
  return Number(row?.n) === 1
}

export async function turnRule(
  sql: Tx,
  { who, at }: Acting,
  id: string,
  state: 'on' | 'paused',
): Promise<SavedRule> {
  const row = await ruleOfTheirs(sql, who, id)
  if (!row) return NO_RULE
  await stopOrGoOn(sql, { who, at }, id, state)
  return { ok: true }
}

/** Also by whoever may not change it: an owner who no longer agrees stops it. */
export async function stopOrGoOn(sql: Tx, acting: Acting, id: string, state: 'on' | 'paused'): Promise<void> {
  await setRuleState(sql, { id, state })
  if (state === 'paused') await dropUnsent(sql, id, 'The rule was paused.')
  await logRule(sql, acting, id, state === 'paused' ? 'paused' : 'turned on')
  sql.tell(acting.who.workspaceId, { topics: ['rules', 'team'] })
}
