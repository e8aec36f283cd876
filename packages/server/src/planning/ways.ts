import { travelled, type WayOf } from '@loom/core/view'
import { planningOf } from '@loom/core/planning'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { planningsWithWays } from '../data/repositories/planning.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { clothSeenBy } from '../view/own-cloth.ts'

/**
 * The ways of colleagues who show them, to appointments whose place whoever asks sees: where that is hidden, so is the
 * way. One's own are told by one's own page.
 * @param span in the zone of whoever asks
 */
export async function waysOfOthers(
  ctx: Context,
  member: Member,
  span: { from: string; days: number },
): Promise<WayOf[]> {
  return ctx.db.snapshot(async sql => {
    const rows = await planningsWithWays(sql, { workspaceId: member.workspaceId })
    const others = rows
      .filter(r => r.memberId !== member.id)
      .map(r => ({ person: r.memberId, ...planningOf(parsed(r.body)) }))
      .filter(o => o.showsWays && o.travel.places.length > 0)
    if (others.length === 0) return []
    const { items } = await clothSeenBy(sql, member, span, ctx.now())
    return others.flatMap(({ person, travel }) => {
      const theirs = items.filter(i => i.people.includes(person))
      return travelled(theirs, travel).ways.map(way => ({ ...way, person }))
    })
  })
}
