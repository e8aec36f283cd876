import {
  clothItem,
  type ClothItem,
  type Event,
  type Item,
  type ItemPatch,
  type ItemSource,
  type Task,
  type Viewer,
  withOpenEdit,
} from '@loom/core'
import type { Sight } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'

import { openEditsOf, type OpenIntent } from '../data/repositories/intents.ts'
import { parsed } from '../data/json.ts'

/** Edits made here that no service has confirmed yet. They show at once, and disappear if they are refused. */

export const openIntents = (sql: Sql, workspaceId: string): Promise<OpenIntent[]> =>
  openEditsOf(sql, { workspaceId })

export function applyOpenEdits(open: readonly OpenIntent[], sources: Map<string, ItemSource<Item>>): void {
  for (const { mirror_id, body } of open) {
    const source = sources.get(mirror_id ?? '')
    if (!source) continue
    const intent = parsed(body)
    if (intent.by === 'remover') sources.delete(source.id)
    if (intent.by === 'person') sources.set(source.id, withOpenEdit(source, intent.patch as ItemPatch))
  }
}

const MOST_BEING_MADE = 200

/** Items that are being created. */
export function beingMade(open: readonly OpenIntent[], sight: Sight, viewer: Viewer): ClothItem[] {
  const making = open.filter(o => o.mirror_id === null && o.cause !== 'person-move').slice(0, MOST_BEING_MADE)
  return making.flatMap(({ id, collection_id, body }) => {
    const intent = parsed(body)
    if (intent.by !== 'maker' || intent.item.recurring) return []
    const source = { id: `new ${id}`, collectionId: collection_id, pending: true, writable: false }
    const seen = sight.seen<Item>({ ...source, item: intent.item })
    if (!seen) return []
    const made =
      seen.item.kind === 'task'
        ? clothItem(seen as ItemSource<Task>, null, viewer)
        : clothItem(null, seen as ItemSource<Event>, viewer)
    return made ? [{ ...made, fixedBecause: 'It is on its way.', movable: false }] : []
  })
}
