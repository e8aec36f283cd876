import {
  clothItem,
  decideEdit,
  type Edit,
  type Event,
  type Item,
  type ItemPatch,
  type Task,
} from '@loom/core'
import type { Member } from '../access/sessions.ts'
import type { Sql } from '../data/database.ts'
import { numberChange } from '../sync/changes.ts'
import type { Context } from '../sync/context.ts'
import { addIntent, addToWaiting, type IntentBody } from '../sync/intents.ts'
import { DEFAULT_MINUTES, loadPairs } from './cloth.ts'

/** A person's edit becomes an intent like any other, and goes before a rule's. */

export type EditAnswer =
  { ok: true; inverse: Edit; connectionId: string | null } | { ok: false; status: 404 | 409; reason: string }

export async function editItem(ctx: Context, member: Member, key: string, edit: Edit): Promise<EditAnswer> {
  const mirrorId = key.split('@')[0] ?? key
  const answer = await ctx.db.transaction(async (sql): Promise<EditAnswer> => {
    // Edits of one item are decided one after the other, each upon what the last one left.
    await sql.one('SELECT id FROM mirrors WHERE id = :mirrorId FOR UPDATE', { mirrorId })
    const { pairs } = await loadPairs(sql, member.workspaceId, [mirrorId])
    const pair = pairs.find(p => p.task?.id === mirrorId || p.event?.id === mirrorId)
    const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
    const item = pair && clothItem(pair.task, pair.event, viewer)
    if (!pair || !item) return { ok: false, status: 404, reason: 'It is no longer there.' }
    const planned = decideEdit({ item, task: pair.task, event: pair.event }, edit)
    if (!planned.ok) return { ok: false, status: 409, reason: planned.reason }
    const { write, estimate, inverse } = planned
    const touched: string[] = []
    if (estimate) {
      await sql.insert(
        `INSERT INTO own_layer (mirror_id, workspace_id, estimate_minutes) VALUES (:id, :workspaceId, :minutes)
         ON DUPLICATE KEY UPDATE estimate_minutes = VALUES(estimate_minutes)`,
        { id: estimate.mirrorId, workspaceId: member.workspaceId, minutes: estimate.minutes },
      )
      touched.push(estimate.mirrorId)
    }
    const owner = write && [pair.task, pair.event].find(s => s?.id === write.mirrorId)
    const connectionId =
      write && owner ? await queue(sql, member, owner.id, owner.item, write.patch, edit.do, item.title) : null
    await numberChange(sql, member.workspaceId, { topics: ['cloth'] }, touched)
    return { ok: true, inverse, connectionId }
  })
  ctx.feed.nudge()
  return answer
}

async function queue(
  sql: Sql,
  member: Member,
  mirrorId: string,
  item: Task | Event,
  patch: ItemPatch,
  cause: Edit['do'],
  title: string,
): Promise<string | null> {
  const home = await sql.one<{ connection_id: string; collection_id: string }>(
    'SELECT connection_id, collection_id FROM mirrors WHERE id = :mirrorId FOR UPDATE',
    { mirrorId },
  )
  if (!home) return null
  // A rule's write that was not sent yet gives way; the rule plans again after ours.
  await sql.run(
    `UPDATE intents SET state = 'dropped', reason = 'Somebody changed it here.'
     WHERE mirror_id = :mirrorId AND state = 'open' AND attempts = 0 AND member_id IS NULL`,
    { mirrorId },
  )
  const before = Object.fromEntries(
    Object.keys(patch).map(k => [k, (item as Item as unknown as Record<string, unknown>)[k]]),
  ) as ItemPatch
  const body = { by: 'person', patch, before } satisfies IntentBody
  if (await addToWaiting(sql, member.id, mirrorId, body)) return home.connection_id
  const intent = {
    workspaceId: member.workspaceId,
    connectionId: home.connection_id,
    collectionId: home.collection_id,
    mirrorId,
    ruleId: null,
    memberId: member.id,
    tieId: null,
    uid: null,
    body,
    cause: `person-${cause}`,
    title,
  }
  if (!(await addIntent(sql, { ...intent, state: 'open' })))
    await addIntent(sql, { ...intent, state: 'waiting' })
  return home.connection_id
}
