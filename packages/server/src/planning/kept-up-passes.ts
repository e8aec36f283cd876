import { causeKey, type Stretch } from '@loom/core/planning'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import {
  laidFrom,
  lockPass,
  markPassesSeen,
  markPassUndone,
  type Pass,
  passesOf,
  putLaid,
} from '../data/repositories/kept-up.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { editItem } from '../view/edit.ts'
import { askedFor, placedAt } from './keep-up.ts'

/** What was moved by itself for somebody, told and put back. */

const TOLD_MS = 7 * 86_400_000

export interface ToldPass extends Pass {
  id: string
  atMs: number
  undone: boolean
  seen: boolean
}

export async function keptUpFor(ctx: Context, { id }: Member): Promise<ToldPass[]> {
  const rows = await passesOf(ctx.db, { memberId: id, from: ctx.now() - TOLD_MS })
  return rows.map(r => ({
    ...parsed(r.body),
    id: r.id,
    atMs: Number(r.at),
    undone: r.undone_at !== null,
    seen: r.seen === 1,
  }))
}

/** Nobody else is told. */
export const sawKeptUp = (ctx: Context, { id }: Member): Promise<unknown> =>
  ctx.db.commit(sql => markPassesSeen(sql, { memberId: id }))

export interface UndonePass {
  /** Titles of what went back, and of what is otherwise by now, with why it stays. */
  back: string[]
  stays: { title: string; reason: string }[]
  connections: string[]
}

const same = (one: Stretch | null, other: Stretch): boolean =>
  one !== null && one.fromMs === other.fromMs && one.toMs === other.toMs

/**
 * Puts back what still is as the pass left it, and holds it there as long as there is the same cause. Null where there is
 * no such pass, or it was put back before.
 */
export async function undoKeptUp(ctx: Context, member: Member, id: string): Promise<UndonePass | null> {
  const now = ctx.now()
  // Whoever comes second finds it put back.
  const pass = await ctx.db.commit(async sql => {
    const row = await lockPass(sql, { id, memberId: member.id })
    if (!row || row.undone_at !== null) return null
    await markPassUndone(sql, { id, now })
    sql.tell(member.workspaceId, { topics: ['cloth'], exact: true, lists: [] })
    return parsed(row.body)
  })
  if (!pass) return null
  const asked = await ctx.db.snapshot(sql => askedFor(ctx, sql, member))
  const placeOf = new Map(asked?.items.map(i => [i.key, i.place]))
  const laid = new Map((await laidFrom(ctx.db, { memberId: member.id, from: 0 })).map(p => [p.id, p]))
  const cause = pass.steps.find(s => s.cause !== null)?.cause ?? null
  const undone: UndonePass = { back: [], stays: [], connections: [] }
  for (const step of pass.steps) {
    const piece = laid.get(step.piece)
    const place = placeOf.get(step.key)
    const there = place?.kind === 'timed' ? { fromMs: place.startMs, toMs: place.endMs } : null
    if (!piece || !(same(there, step.to) || (piece.base !== null && same(there, piece.base)))) {
      undone.stays.push({ title: step.title, reason: 'It was moved since.' })
      continue
    }
    const to = step.from
    const edit = placedAt({ key: step.key, task: piece.task }, step.to, to, member.zone)
    const act = { passId: id, cause: 'kept-up-back' }
    const answer = await editItem(ctx, member, step.key, edit, null, act)
    if (!answer.ok) {
      undone.stays.push({ title: step.title, reason: answer.reason })
      continue
    }
    if (answer.connectionId) undone.connections.push(answer.connectionId)
    undone.back.push(step.title)
    const heldFor = step.cause ?? cause
    await ctx.db.commit(sql => putLaid(sql, { ...piece, before: there, wrote: to, base: null, heldFor }))
  }
  ctx.log.info({ pass: id, cause: cause && causeKey(cause) }, 'what was kept up was put back')
  return undone
}
