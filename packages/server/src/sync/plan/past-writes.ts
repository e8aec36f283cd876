import {
  ALTERNATION_WINDOW_MS,
  ALTERNATIONS,
  type Decision,
  type FieldChange,
  type PastWrite,
  plan,
  type PlanInput,
} from '@loom/core'
import type { Sql } from '../../data/database.ts'

/** The plan, knowing what rules wrote lately where that could show that a field goes to and fro. */
export async function planKnowingPast(sql: Sql, input: PlanInput): Promise<Decision[]> {
  const decisions = plan(input)
  const past = await pastWrites(sql, decisions, input.now)
  return past.size === 0 ? decisions : plan({ ...input, past })
}

/** By the mirrors that are to be written, of those that rules wrote often enough; newest first. */
async function pastWrites(sql: Sql, decisions: Decision[], now: number): Promise<Map<string, PastWrite[]>> {
  const past = new Map<string, PastWrite[]>()
  const patched = decisions.flatMap(d => d.writes.flatMap(w => (w.op === 'patch' ? [w.mirrorId] : [])))
  const of = `j.op = 'patch' AND j.outcome = 'done' AND j.at > :since AND j.rule_id IS NOT NULL`
  const since = now - ALTERNATION_WINDOW_MS
  for (let i = 0; i < patched.length; i += 1000) {
    const often = await sql.rows<{ mirror_id: string }>(
      `SELECT mirror_id FROM journal j WHERE mirror_id IN (:ids) AND ${of} GROUP BY mirror_id HAVING COUNT(*) >= :often`,
      { ids: patched.slice(i, i + 1000), since, often: ALTERNATIONS },
    )
    if (often.length === 0) continue
    const lines = await sql.rows<{ mirror_id: string; rule_id: string; fields: string; name: string }>(
      `SELECT j.mirror_id, j.rule_id, j.fields, IFNULL(r.name, CONCAT(a.name, ' ⇄ ', b.name)) AS name
       FROM journal j JOIN rules r ON r.id = j.rule_id JOIN collections a ON a.id = r.a_collection
         JOIN collections b ON b.id = r.b_collection
       WHERE j.mirror_id IN (:ids) AND ${of} ORDER BY j.id DESC`,
      { ids: often.map(o => o.mirror_id), since },
    )
    for (const { mirror_id: id, rule_id: rule, fields, name } of lines)
      past.set(id, [...(past.get(id) ?? []), { rule, name, fields: JSON.parse(fields) as FieldChange[] }])
  }
  return past
}
