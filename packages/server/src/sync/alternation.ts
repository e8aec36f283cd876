import { type Decision, FIELD_WORDS, type FieldChange, type Rule, sameRaw } from '@loom/core'
import type { Sql } from '../data/database.ts'

/** Rules that pull one field to and fro: after three alternations it is held, with the rules named. */

const WINDOW_MS = 3_600_000

interface Line {
  rule_id: string
  name: string
  fields: string
}

/** How the last writes of the field read, newest first, as long as they alternate between two values of two rules. */
function alternates(lines: Line[], rule: Rule, change: FieldChange): Line[] {
  const run: Line[] = []
  let next: { rule: string; after: unknown } = { rule: rule.id, after: change.after }
  for (const line of lines) {
    const field = (JSON.parse(line.fields) as FieldChange[]).find(f => f.field === change.field)
    if (!field) continue
    if (line.rule_id === next.rule || sameRaw(field.after, next.after)) break
    run.push(line)
    next = { rule: line.rule_id, after: field.after }
  }
  return run
}

/** The decisions without the writes that would go to and fro, and a line for each of those. */
export async function heldByAlternation(
  sql: Sql,
  rule: Rule,
  decisions: Decision[],
  now: number,
): Promise<{ decisions: Decision[]; names: string[] }> {
  const patched = decisions.flatMap(d => d.writes.flatMap(w => (w.op === 'patch' ? [w.mirrorId] : [])))
  if (patched.length === 0) return { decisions, names: [] }
  const contested = new Set<string>()
  for (let i = 0; i < patched.length; i += 1000)
    for (const m of await sql.rows<{ mirror_id: string }>(
      `SELECT mirror_id FROM journal WHERE mirror_id IN (:ids) AND op = 'patch' AND outcome = 'done' AND at > :since
         AND rule_id IS NOT NULL GROUP BY mirror_id HAVING COUNT(DISTINCT rule_id) > 1`,
      { ids: patched.slice(i, i + 1000), since: now - WINDOW_MS },
    ))
      contested.add(m.mirror_id)
  if (contested.size === 0) return { decisions, names: [] }
  const names: string[] = []
  const kept: Decision[] = []
  for (const d of decisions) {
    const held: string[] = []
    for (const w of d.writes) {
      if (w.op !== 'patch' || !contested.has(w.mirrorId)) continue
      const lines = await sql.rows<Line>(
        `SELECT j.rule_id, j.fields, IFNULL(r.name, CONCAT(a.name, ' ⇄ ', b.name)) AS name
         FROM journal j JOIN rules r ON r.id = j.rule_id JOIN collections a ON a.id = r.a_collection
           JOIN collections b ON b.id = r.b_collection
         WHERE j.mirror_id = :id AND j.op = 'patch' AND j.outcome = 'done' AND j.at > :since ORDER BY j.id DESC LIMIT 8`,
        { id: w.mirrorId, since: now - WINDOW_MS },
      )
      for (const change of w.fields) {
        const run = alternates(lines, rule, change)
        if (run.length < 3) continue
        const rules = [...new Set(run.map(l => `“${l.name}”`))].join(' and ')
        held.push(
          `${d.title}: its ${FIELD_WORDS[change.field]} goes to and fro between rules, so it is left as it is: ${rules}.`,
        )
      }
    }
    names.push(...held)
    kept.push(held.length > 0 ? { ...d, writes: d.writes.filter(w => w.op !== 'patch') } : d)
  }
  return { decisions: kept, names }
}
