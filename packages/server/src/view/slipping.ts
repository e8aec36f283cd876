import type { Sql } from '../data/database.ts'
import { slippedTasks } from '../data/repositories/own-layer.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { DEFAULT_MINUTES } from './cloth.ts'
import { drawn, loadPairs } from './pairs.ts'

/** What keeps slipping, of one's own tasks and those that nobody has. */

export interface Slipping {
  key: string
  title: string
  slips: number
  /** Epoch ms. */
  since: number | null
}

const MOST = 6

export async function slippingOf(sql: Sql, member: Member, now: number): Promise<Slipping[]> {
  const found = await slippedTasks(sql, { workspaceId: member.workspaceId })
  if (found.length === 0) return []
  const { pairs } = await loadPairs(
    sql,
    member,
    found.map(f => f.id),
  )
  const since = new Map(found.map(f => [f.id, f.since]))
  const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now }
  return pairs
    .flatMap(pair => {
      const item = pair.task && since.has(pair.task.id) ? drawn(pair, viewer) : null
      if (!item || item.done || item.cancelled || item.onlyBusy) return []
      if (item.people.length > 0 && !item.people.includes(member.id)) return []
      const at = since.get(pair.task?.id ?? '') ?? null
      return [{ key: item.key, title: item.title, slips: item.slips, since: at === null ? null : Number(at) }]
    })
    .sort((x, y) => y.slips - x.slips || (x.key < y.key ? -1 : 1))
    .slice(0, MOST)
}
