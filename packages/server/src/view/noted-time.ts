import { type ClothItem, dayAt, type Edit, MINUTE } from '@loom/core'
import { wholeMinutes } from '@loom/core/ledger'
import type { Sql } from '../data/database.ts'
import { pastBlocksOf } from '../data/repositories/cloth.ts'
import { zoneOfMember } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { type Keeper, note, withdrawRefs } from '../ledger/ledger.ts'
import { aboutPair, estimateOf } from './about.ts'
import { DEFAULT_MINUTES } from './cloth.ts'
import type { Loaded, Pair } from './pairs.ts'

/**
 * What an edit says of time that was spent: a block that was worked; a task that is done, of whose planned time it is
 * then assumed that it was spent. Undone with it.
 */
export async function noteTimeOf(
  sql: Sql,
  { member, now }: { member: Member; now: number },
  { pair, item, sources }: { pair: Pair; item: ClothItem; sources: Loaded['sources'] },
  edit: Edit,
): Promise<void> {
  if (edit.do !== 'spend' && edit.do !== 'complete' && edit.do !== 'reopen') return
  const keeper = await keeperOf(sql, member, item)
  const lead = pair.task ?? pair.event
  if (!keeper || !lead) return
  const day = dayAt(now, keeper.zone)
  const about = await aboutPair(sql, pair, item)
  if (!about) return
  // What somebody else says of my time is for me to confirm.
  const isOther = keeper.id !== member.id
  if (edit.do === 'spend') {
    const ref = `worked:${lead.id}`
    if (!edit.spent) return withdrawRefs(sql, keeper, now, ref)
    const time = item.place.kind === 'timed' && wholeMinutes(item.place.startMs, item.place.endMs)
    if (time) await note(sql, keeper, now, { time, day, source: 'worked', assumed: isOther, about, ref })
    return
  }
  if (edit.do === 'reopen')
    return withdrawRefs(sql, keeper, now, `done:${lead.id}:`, row => row.assumed === 1)
  const assume = { day, source: 'worked', assumed: true, about } as const
  const { place } = item
  if (place.kind === 'timed' && !item.atDeadline && place.startMs < now) {
    const time = wholeMinutes(place.startMs, Math.min(place.endMs, now))
    if (time) await note(sql, keeper, now, { ...assume, time, ref: `done:${lead.id}:${place.startMs}` })
  }
  if (!pair.task) return
  for (const block of await pastBlocksOf(sql, { id: pair.task.id, now })) {
    const whole = wholeMinutes(Number(block.startMs), Math.min(Number(block.endMs), now))
    if (!whole) continue
    const isBatch = block.role === 'batch'
    const held = isBatch ? block.held.split(' ') : []
    const minutes = isBatch ? shareOf(pair.task.id, held, (whole.toMs - whole.fromMs) / MINUTE, sources) : 0
    if (isBatch && minutes === 0) continue
    const time = isBatch ? { minutes } : whole
    const on = dayAt(whole.fromMs, keeper.zone)
    await note(sql, keeper, now, { ...assume, day: on, time, ref: `done:${lead.id}:${block.id}` })
  }
}

/** The time of a batch goes into its tasks by how long each is thought to take. */
function shareOf(task: string, held: readonly string[], minutes: number, sources: Loaded['sources']): number {
  const weightOf = (id: string): number => {
    const source = sources.get(id)
    return source?.item.kind === 'task'
      ? (estimateOf(source as Parameters<typeof estimateOf>[0]) ?? DEFAULT_MINUTES)
      : 0
  }
  const whole = held.reduce((sum, id) => sum + weightOf(id), 0)
  return whole === 0 ? 0 : Math.round((minutes * weightOf(task)) / whole)
}

/** Whose time it is: of whoever says it where they have a part in it, or nobody has. */
async function keeperOf(sql: Sql, member: Member, { people }: ClothItem): Promise<Keeper | null> {
  const [other] = people
  if (other === undefined || people.includes(member.id)) return member
  const zone = await zoneOfMember(sql, { id: other })
  return zone && { id: other, workspaceId: member.workspaceId, zone: zone.zone }
}
