import type { ClothItem, EventKind, ItemSource, Task, Event } from '@loom/core'
import type { EntryAbout } from '@loom/core/ledger'
import type { Sql } from '../data/database.ts'
import { namesOfCollections } from '../data/repositories/collection-views.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { DEFAULT_MINUTES } from './cloth.ts'
import { drawn, loadPairs, type Pair, pairOf } from './pairs.ts'

/** What time went into, as it is at this moment: later nothing of it is asked again. */

const KINDS: Partial<Record<EventKind, EntryAbout['kind']>> = {
  focus: 'focus',
  travel: 'travel',
  'task block': 'task',
  batch: 'task',
}

/** Time of a block goes into its task. Null of what is not there. */
export async function aboutPair(sql: Sql, pair: Pair, item: ClothItem): Promise<EntryAbout | null> {
  const lead = pair.around.blockOf ?? pair.task ?? pair.event
  if (!lead) return null
  const names = await namesOfCollections(sql, { ids: [lead.collectionId] })
  return aboutSource(lead, item, names[0]?.name ?? '')
}

export function aboutSource(
  lead: ItemSource<Task | Event>,
  item: Pick<ClothItem, 'eventKind'>,
  list: string,
): EntryAbout {
  const { item: what } = lead
  const isTask = what.kind === 'task'
  return {
    key: lead.dateOf?.seriesId ?? lead.id,
    uid: what.uid,
    title: (what.summary || 'Untitled').slice(0, 500),
    list: list.slice(0, 200),
    category: (what.categories[0] ?? '').slice(0, 200),
    // As in a load: what is no work is a meeting or an appointment.
    kind: isTask ? 'task' : (KINDS[item.eventKind] ?? 'meeting'),
    estimate: isTask ? estimateOf(lead as ItemSource<Task>) : null,
    private: lead.own?.private === true || (!isTask && what.class !== 'public'),
  }
}

/** Minutes, whole. */
export function estimateOf({ item, own }: ItemSource<Task>): number | null {
  const said = item.estimatedDuration ?? own?.estimate ?? null
  return said === null ? null : Math.round(said)
}

/** Of an item as a member sees it, with its people; null where they see none. */
export async function aboutKey(
  sql: Sql,
  member: Member,
  key: string,
  now: number,
): Promise<EntryAbout | null> {
  const mirrorId = key.split('@')[0] ?? key
  const { pairs } = await loadPairs(sql, member, [mirrorId])
  const pair = pairOf(pairs, mirrorId)
  const item = pair && drawn(pair, { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now })
  return pair && item && !item.onlyBusy ? aboutPair(sql, pair, item) : null
}
