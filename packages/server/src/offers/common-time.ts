import { addDays, dayAt, daysBetween, MINUTE } from '@loom/core'
import { type Attendant, type CommonTime, commonTimes, QUARTER_MINUTES } from '@loom/core/offers'
import type { Context } from '../context/context.ts'
import { heldQuarters } from '../data/repositories/bookings.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import type { Asking, Member } from '../data/repositories/sessions.ts'
import { clothSeenBy } from '../view/own-cloth.ts'
import { peopleOf } from '../view/people.ts'
import { takenBy } from './host-times.ts'
import { roomFor } from './make-room.ts'

/**
 * A time at which several colleagues can meet: by all that each of them has in their own calendars, of which only the
 * best times leave. What would give way is named where whoever asks may see it.
 */

export interface CommonAsked {
  people: readonly string[]
  minutes: number
  /** From the present quarter on, or later; over by then. */
  fromMs: number
  toMs: number
  below: number
}

export interface CommonTold {
  fromMs: number
  toMs: number
  reasons: CommonToldReason[]
}
export type CommonToldReason =
  | { kind: 'outside'; person: string; minutes: number }
  /** `title`: null where whoever asks does not see it; `toMs`: null where it goes to the shelf. */
  | { kind: 'gives way'; person: string; title: string | null; to: number | null }

const MOST_TIMES = 3
const QUARTER_MS = QUARTER_MINUTES * MINUTE

/** Null where one of them is no member. */
export async function commonTimesFor(
  ctx: Context,
  asker: Asking,
  { people, minutes, fromMs, toMs, below }: CommonAsked,
): Promise<CommonTold[] | null> {
  const { workspaceId } = asker
  const team = await teamOfWorkspace(ctx.db, { workspaceId })
  const members = people.flatMap((id): Member[] => {
    const found = team.find(m => m.id === id)
    return found ? [{ ...found, workspaceId, userId: '' }] : []
  })
  if (members.length < people.length) return null
  const now = ctx.now()
  const within = { fromMs: Math.max(fromMs, now), toMs }
  const rows = (await peopleOf(ctx.db, workspaceId)).people
  const quarters = await heldQuarters(ctx.db, {
    hosts: people,
    from: Math.floor(within.fromMs / QUARTER_MS),
    to: Math.ceil(within.toMs / QUARTER_MS),
    but: '',
  })
  const attendants: Attendant[] = []
  for (const member of members) {
    const hours = rows.find(r => r.id === member.id)?.hours
    if (!hours) continue
    const from = addDays(dayAt(within.fromMs, member.zone), -1)
    const span = { from, days: daysBetween(from, dayAt(within.toMs, member.zone)) + 2 }
    const taken = await takenBy(ctx, member, span, asker.seq)
    const held = quarters.filter(q => q.member_id === member.id)
    attendants.push({
      id: member.id,
      hours,
      busy: [
        ...taken.filter(t => t.presses === null),
        ...held.map(q => ({ fromMs: q.quarter * QUARTER_MS, toMs: (q.quarter + 1) * QUARTER_MS })),
      ],
      yields: taken.flatMap(t => (t.presses === null ? [] : [{ ...t, pressure: t.presses }])),
    })
  }
  const found = commonTimes(attendants, { minutes, within, below, most: MOST_TIMES })
  return tellable(ctx, asker, members, found, below)
}

/** Where what gives way goes is reckoned for the few that are told, and not for all that might be. */
async function tellable(
  ctx: Context,
  asker: Asking,
  members: readonly Member[],
  found: readonly CommonTime[],
  below: number,
): Promise<CommonTold[]> {
  const told: CommonTold[] = []
  for (const { fromMs, toMs, reasons } of found) {
    const goes = new Map<string, { title: string; to: number | null }>()
    for (const member of members)
      if (reasons.some(r => r.kind === 'gives way' && r.person === member.id))
        for (const { piece, to } of await roomFor(ctx, member, { taken: { fromMs, toMs }, below }))
          goes.set(piece.key, { title: piece.title, to: to?.fromMs ?? null })
    const seen = await titlesSeen(ctx, asker, fromMs, toMs)
    told.push({
      fromMs,
      toMs,
      reasons: reasons.map(r => {
        if (r.kind === 'outside') return r
        return {
          kind: r.kind,
          person: r.person,
          title: seen.get(r.key) ?? null,
          to: goes.get(r.key)?.to ?? null,
        }
      }),
    })
  }
  return told
}

async function titlesSeen(
  ctx: Context,
  asker: Member,
  fromMs: number,
  toMs: number,
): Promise<Map<string, string>> {
  const from = dayAt(fromMs, asker.zone)
  const days = daysBetween(from, dayAt(toMs, asker.zone)) + 1
  const { items } = await ctx.db.snapshot(sql => clothSeenBy(sql, asker, { from, days }, ctx.now()))
  return new Map(items.filter(i => !i.onlyBusy).map(i => [i.key, i.title]))
}
