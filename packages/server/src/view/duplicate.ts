import { ONLY_LOOK, reaches } from '@loom/core'
import { levelsOf } from '../access/rights.ts'
import { mirrorToDuplicate } from '../data/repositories/chosen-items.ts'
import { randomUUID } from 'node:crypto'
import { newEvent, newTask, type When } from '@loom/core'
import { mirrorOf } from '../data/repositories/mirrors.ts'
import { ownLayerOn } from '../data/repositories/own-layer.ts'
import type { Context } from '../context/context.ts'
import { addIntent } from '../sync/log/intents.ts'
import { unsupportedAt } from '../sync/push/unsupported-fields.ts'
import type { Made } from './make.ts'

import type { Member } from '../data/repositories/sessions.ts'

/** Copies an item in its own list, with a new identity. Guests and repetition are not copied. */
export async function duplicateItem(
  ctx: Context,
  member: Member,
  key: string,
  start: When | null,
): Promise<Made> {
  const answer = await ctx.db.commit(async (sql): Promise<Made> => {
    const row = await mirrorToDuplicate(sql, { key, workspaceId: member.workspaceId })
    const level = (await levelsOf(sql, member, [key]))(key)
    if (!row || !reaches(level, 'title')) return { ok: false, reason: 'It is no longer there.' }
    if (level !== 'change') return { ok: false, reason: ONLY_LOOK }
    if (row.writable === 0) return { ok: false, reason: `${row.place} can only be read.` }
    const { item } = mirrorOf(row)
    const uid = randomUUID()
    const [{ unsupported }, ours] = [
      await unsupportedAt(sql, row.collection_id),
      await ownLayerOn(sql, row.id),
    ]
    const copy =
      item.kind === 'task'
        ? newTask(uid, {
            summary: item.summary,
            description: item.description,
            priority: item.priority,
            due: item.due,
            start: start ?? item.start,
            estimatedDuration: item.estimatedDuration,
            categories: item.categories,
            assignees: item.assignees,
            parent: item.parent,
            ...(item.location && { location: item.location }),
            url: item.url,
          })
        : {
            ...newEvent(uid, start ? { ...item.time, anchor: start } : item.time, {
              summary: item.summary,
              description: item.description,
              location: item.location,
              transparency: item.transparency,
              priority: item.priority,
              categories: item.categories,
              url: item.url,
            }),
            class: item.class,
          }
    await addIntent(sql, {
      workspaceId: member.workspaceId,
      connectionId: row.connection_id,
      collectionId: row.collection_id,
      mirrorId: null,
      ruleId: null,
      memberId: member.id,
      tieId: null,
      uid,
      body: {
        by: 'maker',
        item: copy,
        original: null,
        own: {
          ...(row.estimate && { estimate: row.estimate }),
          ...(unsupported.has('start') && { plan: start ?? ours.plan }),
        },
      },
      cause: 'person-duplicate',
      title: item.summary || 'Untitled',
      state: 'open',
    })
    sql.tell(member.workspaceId, { topics: ['cloth'], exact: true, lists: [row.collection_id] })
    return { ok: true, intent: uid, connectionId: row.connection_id, place: row.place, lost: [], ties: [] }
  })
  return answer
}
