import {
  ALTERNATION_WINDOW_MS,
  ALTERNATIONS,
  type Decision,
  type PastWrite,
  plan,
  type PlanInput,
  type Rule,
  SIDES,
} from '@loom/core'
import { chunks } from '../../data/chunks.ts'
import type { Sql } from '../../data/database.ts'
import { uidsAmong } from '../../data/repositories/to-plan.ts'
import { oftenWritten, writesOfRules } from '../../data/repositories/journal.ts'
import { parsed } from '../../data/json.ts'

/**
 * The plan, knowing what rules wrote lately where that could show that a field goes to and fro, and which of the uids
 * that it gives have been given here before.
 */
export async function planKnowingPast(sql: Sql, input: PlanInput): Promise<Decision[]> {
  const decisions = plan(input)
  const past = await pastWrites(sql, decisions, input.now)
  const usedUids = await usedUidsOf(sql, input.rule, decisions)
  return past.size + usedUids.size === 0 ? decisions : plan({ ...input, past, usedUids })
}

/** Of what is to be made: the uids that something at the same account has, or had. */
async function usedUidsOf(sql: Sql, { home }: Rule, decisions: Decision[]): Promise<Set<string>> {
  const used = new Set<string>()
  for (const side of SIDES) {
    const made = decisions.flatMap(d =>
      d.writes.flatMap(w => (w.op === 'create' && w.side === side ? [w.item.uid] : [])),
    )
    for (const part of chunks(made))
      for (const { uid } of await uidsAmong(sql, { collection: home[side], uids: part })) used.add(uid)
  }
  return used
}

/** By the mirrors that are to be written, of those that rules wrote often enough; newest first. */
async function pastWrites(sql: Sql, decisions: Decision[], now: number): Promise<Map<string, PastWrite[]>> {
  const past = new Map<string, PastWrite[]>()
  const patched = decisions.flatMap(d => d.writes.flatMap(w => (w.op === 'patch' ? [w.mirrorId] : [])))
  const since = now - ALTERNATION_WINDOW_MS
  for (let i = 0; i < patched.length; i += 1000) {
    const often = await oftenWritten(sql, { ids: patched.slice(i, i + 1000), since, often: ALTERNATIONS })
    if (often.length === 0) continue
    const lines = await writesOfRules(sql, { ids: often.map(o => o.mirror_id), since })
    for (const { mirror_id: id, rule_id: rule, fields, name } of lines)
      past.set(id, [...(past.get(id) ?? []), { rule, name, fields: parsed(fields) }])
  }
  return past
}
