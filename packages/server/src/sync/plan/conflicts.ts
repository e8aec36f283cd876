import type { Decision, PlanInput } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import type { Context } from '../../context/context.ts'
import { conflictKeys, putConflict, dropConflict } from '../../data/repositories/conflicts.ts'
import type { RuleRow } from '../../data/repositories/rules.ts'
import { json } from '../../data/json.ts'

/** The queue of fields that wait for a person. A pass removes what is settled. Returns whether something new waits. */
export async function recordConflicts(
  ctx: Context,
  sql: Sql,
  row: RuleRow,
  decisions: Decision[],
  input: PlanInput,
): Promise<boolean> {
  const open = new Set((await conflictKeys(sql, { rule: row.id })).map(c => c.k))
  const held = new Set<string>()
  for (const d of decisions)
    for (const h of d.held) {
      if (!d.tie || !h.conflict) continue
      held.add(`${d.tie.id} ${h.field}`)
      const { base, a, b, seen } = h.conflict
      await putConflict(sql, {
        // An answer that did not help is asked for anew; one given since this pass began stands.
        vain: input.answers?.get(d.tie.id)?.[h.field] !== undefined,
        tie: d.tie.id,
        field: h.field,
        workspaceId: row.workspace_id,
        rule: row.id,
        title: d.title,
        reason: h.reason,
        base: base ? json(base) : null,
        a: json(a ?? null),
        b: json(b ?? null),
        seen: json(seen),
        now: ctx.now(),
      })
    }
  const isNew = [...held].some(k => !open.has(k))
  if (open.size === 0) return isNew
  const looked = new Set(
    input.pairs
      .filter(p => p.a && p.b && !input.busy.has(p.a.id) && !input.busy.has(p.b.id))
      .map(p => p.tie.id),
  )
  for (const key of open) {
    const [tie, field] = key.split(' ')
    if (held.has(key) || !looked.has(tie ?? '')) continue
    await dropConflict(sql, { tie, field })
  }
  return isNew
}
