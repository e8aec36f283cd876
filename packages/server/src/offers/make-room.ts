import { addDays, dayAt, daysBetween, type Edit } from '@loom/core'
import { type GivesWay, givingWay, openWaits, type Stretch, yieldingOf } from '@loom/core/planning'
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

interface Meeting {
  /** With what stays free around it. */
  taken: Stretch
  /** Only what presses less gives way. */
  below: number
}

/** What would give way, and where to; nothing is written. */
export async function roomFor(ctx: Context, host: Member, { taken, below }: Meeting): Promise<GivesWay[]> {
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
  if (!hours) return []
  const person = { id: host.id, zone: host.zone, now }
  const pieces = yieldingOf(around.items, person, taken.toMs).filter(
    p => p.pressure < below && p.fromMs < taken.toMs && taken.fromMs < p.toMs,
  )
  return givingWay({ ...around, hours, person, days }, pieces, taken)
}

/** @param by whoever does it, with their rights: the host, where nobody else is named */
export async function makeRoom(
  ctx: Context,
  host: Member,
  meeting: Meeting,
  { by = host, cause = 'booking-gave-way' }: { by?: Member; cause?: string } = {},
): Promise<{ gave: GaveWay[]; connections: string[]; backs: { key: string; edit: Edit }[] }> {
  const gave: GaveWay[] = []
  const backs: { key: string; edit: Edit }[] = []
  const connections = new Set<string>()
  for (const { piece, to } of await roomFor(ctx, host, meeting)) {
    const away: Edit = piece.kind === 'plan' ? { do: 'unplace' } : { do: 'delete' }
    const edit = to ? placedAt(piece, piece, to, host.zone) : away
    const done = await editItem(ctx, by, piece.key, edit, null, { cause })
    if (done.ok && done.connectionId) connections.add(done.connectionId)
    if (done.ok && done.inverse) backs.push({ key: piece.key, edit: done.inverse })
    const why = done.ok ? null : done.reason
    gave.push({ title: piece.title, from: piece.fromMs, to: to?.fromMs ?? null, why })
  }
  return { gave, connections: [...connections], backs }
}
