import { randomUUID } from 'node:crypto'
import type { TieMemory } from '@loom/core'
import type { Member } from '../access/sessions.ts'
import { blocksRuleOf } from '../sync/rules/blocks-rule.ts'
import type { Context } from '../context/context.ts'

/** Which tasks a batch holds, in which order. The event itself is not written; its tasks stay where they live. */

export type BatchAnswer = { ok: true; before: string[] } | { ok: false; reason: string }

/** Sets the whole list, so that adding, taking out and putting in order are one thing, and so is undoing it. */
export async function setBatch(
  ctx: Context,
  member: Member,
  key: string,
  tasks: readonly string[],
): Promise<BatchAnswer> {
  const { workspaceId } = member
  // Of a batch that repeats, each date holds tasks of its own.
  const [id = key, occurrence] = key.split('@')
  const wanted = [...new Set(tasks)]
  const answer = await ctx.db.commit(async (sql): Promise<BatchAnswer> => {
    const event = await sql.one<{ id: string }>(
      `SELECT id FROM mirrors WHERE id = :id AND workspace_id = :workspaceId AND kind = 'event' AND presence = 'present'
       FOR UPDATE`,
      { id, workspaceId },
    )
    if (!event) return { ok: false, reason: 'It is no longer there.' }
    if (wanted.length > 0) {
      const there = await sql.rows<{ id: string }>(
        `SELECT id FROM mirrors WHERE id IN (:wanted) AND workspace_id = :workspaceId AND kind = 'task' AND presence = 'present'`,
        { wanted, workspaceId },
      )
      if (there.length < wanted.length) return { ok: false, reason: 'One of the tasks is no longer there.' }
    }
    const held = await sql.rows<{ id: string; a_mirror: string; memory: string }>(
      `SELECT id, a_mirror, memory FROM ties WHERE b_mirror = :id AND role = 'batch' AND released IS NULL
         AND batch_date = :date`,
      { id, date: occurrence ?? '' },
    )
    const place = (memory: string): number => (JSON.parse(memory) as TieMemory).place ?? 0
    const before = [...held].sort((x, y) => place(x.memory) - place(y.memory)).map(t => t.a_mirror)
    for (const t of held)
      if (!wanted.includes(t.a_mirror))
        await sql.run(`UPDATE ties SET released = 'block-removed' WHERE id = :id`, { id: t.id })
    const rule = await blocksRuleOf(sql, workspaceId, ctx.now())
    for (const [at, task] of wanted.entries()) {
      const memory = JSON.stringify({ place: at, ...(occurrence && { occurrence }) })
      const known = held.find(t => t.a_mirror === task)
      if (known) await sql.run('UPDATE ties SET memory = :memory WHERE id = :id', { id: known.id, memory })
      else
        await sql.insert(
          `INSERT INTO ties (id, workspace_id, rule_id, rule_version, role, a_mirror, b_mirror, base, memory, released, made_at)
           VALUES (:tie, :workspaceId, :rule, 1, 'batch', :task, :id, '{}', :memory, NULL, :now)`,
          { tie: randomUUID(), workspaceId, rule, task, id, memory, now: ctx.now() },
        )
    }
    const tasks = new Set([...wanted, ...before])
    sql.tell(workspaceId, { topics: ['cloth'], exact: true }, [id, ...tasks])
    return { ok: true, before }
  })
  return answer
}
