import { addDays, dayAt, daysBetween, type Edit } from '@loom/core'
import { givingWay, openWaits, type Stretch, yieldingOf } from '@loom/core/planning'
import { withTravel } from '@loom/core/view'
import type { Context } from '../context/context.ts'
import type { GaveWay } from '../data/repositories/bookings.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { placedAt } from '../planning/keep-up.ts'
import { planningFor } from '../planning/planning.ts'
import { editItem } from '../view/edit.ts'
import { clothSeenBy } from '../view/own-cloth.ts'
import { peopleOf } from '../view/people.ts'
import { waitsOf } from '../view/waits.ts'

/** What a guest's meeting stands on gives way: to the next best time, or to the shelf. */

const LEAST_DAYS = 7

/**
 * @param taken the meeting with what stays free around it
 * @param below only what presses less gives way
 */
export async function makeRoom(
  ctx: Context,
  host: Member,
  { taken, below }: { taken: Stretch; below: number },
): Promise<{ gave: GaveWay[]; connections: string[] }> {
  const now = ctx.now()
  const today = dayAt(now, host.zone)
  const days = Math.max(0, daysBetween(today, dayAt(taken.toMs, host.zone))) + LEAST_DAYS
  const around = await ctx.db.snapshot(async sql => {
    const { planning } = await planningFor(sql, host)
    const { items } = await clothSeenBy(sql, host, { from: addDays(today, -1), days: days + 2 }, now)
    const { people } = await peopleOf(sql, host.workspaceId)
    return {
      planning,
      items: withTravel(items, planning.travel, host.id),
      hours: people.find(p => p.id === host.id)?.hours ?? null,
      waits: openWaits(await waitsOf(sql, host, now)),
    }
  })
  const { hours } = around
  if (!hours) return { gave: [], connections: [] }
  const person = { id: host.id, zone: host.zone, now }
  const pieces = yieldingOf(around.items, person, taken.toMs).filter(
    p => p.pressure < below && p.fromMs < taken.toMs && taken.fromMs < p.toMs,
  )
  const gave: GaveWay[] = []
  const connections = new Set<string>()
  for (const { piece, to } of givingWay({ ...around, hours, person, days }, pieces, taken)) {
    const away: Edit = piece.kind === 'plan' ? { do: 'unplace' } : { do: 'delete' }
    const edit = to ? placedAt(piece, piece, to, host.zone) : away
    const done = await editItem(ctx, host, piece.key, edit, null, { cause: 'booking-gave-way' })
    if (done.ok && done.connectionId) connections.add(done.connectionId)
    const why = done.ok ? null : done.reason
    gave.push({ title: piece.title, from: piece.fromMs, to: to?.fromMs ?? null, why })
  }
  return { gave, connections: [...connections] }
}
