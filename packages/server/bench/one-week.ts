import { newEvent, newTask, zoned, type Item } from '@loom/core'
import type { Database } from '../src/data/database.ts'
import { putMirrors } from '../src/data/repositories/mirrors.ts'

/** Stored items round one week: as many in it whatever is stored besides. */

export const WEEK = '2026-11-23'
/** Items with a time in the week, and tasks on the shelf. */
const IN_WEEK = 600
const ON_SHELF = 60
const DAY_MS = 86_400_000

const local = (day: number, n: number): string => {
  const date = new Date(Date.parse(WEEK) + day * DAY_MS).toISOString().slice(0, 10)
  return `${date}T${String(8 + (n % 10)).padStart(2, '0')}:${n % 2 ? '30' : '00'}:00`
}

const idOf = (home: string, uid: string): string => `${home.slice(0, 20)}-${uid}`

/** Puts `count` items into the collections of two connections, four events for each task. */
export async function storeItems(
  db: Database,
  at: { events: string; tasks: string },
  count: number,
): Promise<void> {
  const homes = await db.rows<{ id: string; connection_id: string; workspace_id: string; itemKind: string }>(
    'SELECT id, connection_id, workspace_id, item_kind AS itemKind FROM collections WHERE connection_id IN (:ids) AND takes_part = 1',
    { ids: [at.events, at.tasks] },
  )
  for (const itemKind of ['event', 'task'] as const) {
    const home = homes.find(h => h.itemKind === itemKind)
    if (!home) throw new Error(`nothing holds ${itemKind}s`)
    const share = itemKind === 'event' ? 0.8 : 0.2
    const total = Math.round(count * share)
    const here = Math.round(IN_WEEK * share)
    const items = Array.from({ length: total }, (_, i): Item => {
      // The rest lies in the weeks before and after, up to three years away.
      const day = i < here ? i % 7 : (7 + (i % 1000)) * (i % 2 ? 1 : -1)
      const start = zoned(local(day, i), 'Europe/Dublin')
      if (itemKind === 'event')
        return newEvent(`e${i}`, { anchor: start, minutes: 45 }, { summary: `Walk-round ${i}` })
      const shelved = i >= here && i < here + ON_SHELF
      const done = day < 0 ? ('completed' as const) : ('needs-action' as const)
      return newTask(`t${i}`, {
        summary: `Bed ${i}`,
        start: shelved ? null : start,
        status: shelved ? 'needs-action' : done,
      })
    })
    const place = { workspaceId: home.workspace_id, connectionId: home.connection_id, zone: 'Europe/Dublin' }
    for (let from = 0; from < items.length; from += 2000)
      await db.commit(sql =>
        putMirrors(
          sql,
          place,
          items.slice(from, from + 2000).map(item => ({
            mirror: {
              id: idOf(home.id, item.uid),
              collectionId: home.id,
              remoteId: item.uid,
              revision: '1',
              item,
              presence: 'present',
              seen: {},
              arrivedAt: 0,
              firstSeenAt: 0,
            },
            original: '',
          })),
        ),
      )
  }
  await tieTasks(db, homes, Math.round(count * 0.2))
  await db.run('ANALYZE TABLE mirrors, ties')
}

/** Tasks are tied to events of the same hour, by a rule that rests: here only reading is measured. */
async function tieTasks(
  db: Database,
  homes: readonly { id: string; workspace_id: string; itemKind: string }[],
  tasks: number,
): Promise<void> {
  const [a = '', b = ''] = ['task', 'event'].map(
    itemKind => homes.find(h => h.itemKind === itemKind)?.id ?? '',
  )
  const workspace = homes[0]?.workspace_id ?? ''
  await db.insert(
    `INSERT INTO rules (id, workspace_id, name, a_collection, b_collection, settings, state, version, enabled_at, notices)
     VALUES ('one-week', :workspace, 'At rest', :a, :b, '{}', 'paused', 1, 0, '[]')`,
    { workspace, a, b },
  )
  await db.insert(`INSERT INTO rule_progress (rule_id) VALUES ('one-week')`)
  // Those of the week are tied to events of the week, the rest to the rest.
  const tied = Array.from({ length: tasks }, (_, i) => i).filter(i => i < IN_WEEK * 0.2 || i >= IN_WEEK * 0.8)
  for (let from = 0; from < tied.length; from += 2000)
    await db.insert(
      `INSERT INTO ties (id, workspace_id, rule_id, rule_version, role, a_mirror, b_mirror, base, memory, made_at) VALUES :rows`,
      {
        rows: tied
          .slice(from, from + 2000)
          .map(i => [
            `tie ${i}`,
            workspace,
            'one-week',
            1,
            'mirror',
            idOf(a, `t${i}`),
            idOf(b, `e${i}`),
            '{}',
            '{}',
            0,
          ]),
      },
    )
}
