import type { ClothItem, Viewer } from '@loom/core'
import { sightIn } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { leftOutByMember } from '../data/repositories/left-out.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { clothOf, DEFAULT_MINUTES, type Days, readCloth, type Reading } from './cloth.ts'

/** Some days as a member sees them, with what they leave out of their own plan: for what is done in their name. */
export async function clothSeenBy(
  sql: Sql,
  member: Member,
  span: Pick<Days, 'from' | 'days'>,
  now: number,
): Promise<{ items: ClothItem[]; reading: Reading; viewer: Viewer }> {
  const { id: memberId, workspaceId, zone } = member
  const viewer = { zone, defaultMinutes: DEFAULT_MINUTES, now }
  const reading = await readCloth(sql, { workspaceId, ...span }, viewer, null)
  const out = new Set((await leftOutByMember(sql, { memberId, workspaceId })).map(r => r.id))
  const items = clothOf(reading, await sightIn(sql, member), span, viewer, () => zone).map(item =>
    out.has(item.key.split('@')[0] ?? '') ? { ...item, leftOut: true } : item,
  )
  return { items, reading, viewer }
}
