import type { Event, Task } from '../items/items.ts'
import { dayOf } from '../time/when.ts'
import { splitMark } from './lenses.ts'
import type { Mirror, Rule } from './types.ts'

export interface Match {
  a: Mirror<Task>
  b: Mirror<Event>
}

/** Same work, probably: one key only ever matches when it is unique on both sides. */
function uniquePairs(
  tasks: Mirror<Task>[],
  events: Mirror<Event>[],
  keyA: (task: Task) => string | null,
  keyB: (event: Event) => string | null,
): Match[] {
  const group = <T extends Mirror>(list: T[], key: (m: T) => string | null): Map<string, T[]> => {
    const groups = new Map<string, T[]>()
    for (const m of list) {
      const k = key(m)
      if (k !== null) groups.set(k, [...(groups.get(k) ?? []), m])
    }
    return groups
  }
  const eventsBy = group(events, m => keyB(m.item))
  return [...group(tasks, m => keyA(m.item))].flatMap(([key, [a, moreA]]) => {
    const [b, moreB] = eventsBy.get(key) ?? []
    return a && b && !moreA && !moreB ? [{ a, b }] : []
  })
}

const plain = (title: string): string => title.normalize('NFC').replace(/\s+/g, ' ').trim().toLowerCase()

/**
 * Proposes which untied tasks and events are the same work already (SYNC.md, first pairing): the same
 * uid, else the same title on the same day.
 */
export function proposeMatches(rule: Rule, tasks: Mirror<Task>[], events: Mirror<Event>[]): Match[] {
  const { settings, zone } = rule
  const declined = new Set(settings.declined)
  const byUid = uniquePairs(
    tasks,
    events,
    t => t.uid || null,
    e => e.uid || null,
  )
  const taken = new Set(byUid.flatMap(m => [m.a.id, m.b.id]))
  const byTitle = uniquePairs(
    tasks.filter(m => !taken.has(m.id)),
    events.filter(m => !taken.has(m.id)),
    t => t.start && `${dayOf(t.start, zone)} ${plain(t.summary)}`,
    e => `${dayOf(e.time.anchor, zone)} ${plain(splitMark(e.summary, settings.mark).title)}`,
  )
  return [...byUid, ...byTitle].filter(m => !declined.has(`${m.a.id} ${m.b.id}`))
}
