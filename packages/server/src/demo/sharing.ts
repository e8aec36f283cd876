import { randomUUID } from 'node:crypto'
import type { Level } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { collectionNamed } from '../data/repositories/collections.ts'
import { putGrant, putGroup } from '../data/repositories/grants.ts'

/** What the demo's people share with one another, so that one sees each level. */

const NIGHT_CREW = { name: 'Night crew', members: ['Tobias Lund', 'Rafael Quint', 'Bram Castelijn'] }

interface Shared {
  list: string
  of: string
  everybody?: Level
  crew?: Level
  people?: Record<string, Level>
}

const SHARED: Shared[] = [
  { list: 'Own time', of: 'Anouk Thapa', everybody: 'busy', people: { 'Mei Okoro': 'title' } },
  {
    list: 'Glasshouses',
    of: 'Tobias Lund',
    everybody: 'everything',
    people: { 'Ines Varga': 'change', 'Rafael Quint': 'change' },
  },
  { list: 'Trustees', of: 'Ines Varga', everybody: 'busy', people: { 'Tobias Lund': 'title' } },
  { list: 'House repairs', of: 'Ines Varga', everybody: 'title', crew: 'change' },
  { list: 'Glasshouse crew', of: 'Ines Varga', everybody: 'everything', crew: 'change' },
  { list: 'Ideas', of: 'Ines Varga', everybody: 'everything' },
]

/** @param ids of the members, by name */
export async function shareDemo(
  sql: Sql,
  workspaceId: string,
  ids: ReadonlyMap<string, string>,
): Promise<void> {
  const crew = randomUUID()
  const members = NIGHT_CREW.members.flatMap(name => ids.get(name) ?? [])
  await putGroup(sql, { id: crew, workspaceId, name: NIGHT_CREW.name, members })
  for (const { list, of, everybody, crew: ofCrew, people = {} } of SHARED) {
    const ownerId = ids.get(of)
    const found = ownerId && (await collectionNamed(sql, { workspaceId, name: list, ownerId }))
    if (!found) continue
    const grant = (to_kind: 'everybody' | 'group' | 'person', to_id: string, level: Level): Promise<void> =>
      putGrant(sql, { collection_id: found.id, to_kind, to_id, level, workspaceId })
    if (everybody) await grant('everybody', '', everybody)
    if (ofCrew) await grant('group', crew, ofCrew)
    for (const [name, level] of Object.entries(people)) {
      const id = ids.get(name)
      if (id) await grant('person', id, level)
    }
  }
}
