import { lockEvent, tasksAmong } from '../data/repositories/chosen-items.ts'
import type { Sql } from '../data/database.ts'
import { batchTies, heldByBatch, releaseFromBlock, addBatchTie } from '../data/repositories/blocks.ts'
import { randomUUID } from 'node:crypto'
import { blocksRuleOf } from '../sync/rules/blocks-rule.ts'
import type { Context } from '../context/context.ts'

import { putTieMemory } from '../data/repositories/ties.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { parsed, json, type Json } from '../data/json.ts'
import { ONLY_LOOK, reaches, type TieMemory } from '@loom/core'
import { levelsOf } from '../access/rights.ts'
import { mayWorkOn, seenTitles } from './rights.ts'

/** Which tasks a batch holds, in which order. The event itself is not written; its tasks stay where they live. */

export type BatchAnswer = { ok: true; before: string[] } | { ok: false; reason: string }

/** Sets the whole list. Adding, removing and sorting are one operation, and so is undo. */
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
    const event = await lockEvent(sql, { id, workspaceId })
    const level = (await levelsOf(sql, member, [id]))(id)
    if (!event || !reaches(level, 'title')) return { ok: false, reason: 'It is no longer there.' }
    if (level !== 'change') return { ok: false, reason: ONLY_LOOK }
    if (wanted.length > 0) {
      const there = await tasksAmong(sql, { wanted, workspaceId })
      if (there.length < wanted.length || !(await mayWorkOn(sql, member, await fresh(sql, id, wanted))))
        return { ok: false, reason: 'One of the tasks is no longer there.' }
    }
    // What somebody may not know of stays in it, behind what they see.
    const all = await batchTies(sql, { id, date: occurrence ?? '' })
    const seen = new Set(
      await seenTitles(
        sql,
        member,
        all.map(t => t.a_mirror),
      ),
    )
    const held = all.filter(t => seen.has(t.a_mirror))
    const place = (memory: Json<TieMemory>): number => parsed(memory).place ?? 0
    const before = [...held].sort((x, y) => place(x.memory) - place(y.memory)).map(t => t.a_mirror)
    for (const t of held) if (!wanted.includes(t.a_mirror)) await releaseFromBlock(sql, { id: t.id })
    const rule = await blocksRuleOf(sql, workspaceId, ctx.now())
    for (const [at, task] of wanted.entries()) {
      const memory = json({ place: at, ...(occurrence && { occurrence }) })
      const known = held.find(t => t.a_mirror === task)
      if (known) await putTieMemory(sql, { id: known.id, memory })
      else await addBatchTie(sql, { tie: randomUUID(), workspaceId, rule, task, id, memory, now: ctx.now() })
    }
    const tasks = new Set([...wanted, ...before])
    sql.tell(workspaceId, { topics: ['cloth'], exact: true }, [id, ...tasks])
    return { ok: true, before }
  })
  return answer
}

/** Those that are not in it yet, on any date: what is there already is only put in order. */
async function fresh(sql: Sql, id: string, wanted: readonly string[]): Promise<string[]> {
  const there = new Set((await heldByBatch(sql, { id })).map(t => t.a_mirror))
  return wanted.filter(task => !there.has(task))
}
