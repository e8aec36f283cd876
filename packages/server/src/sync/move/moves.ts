import { childrenOf, taskNamed } from '../../data/repositories/subtasks.ts'
import { randomUUID } from 'node:crypto'
import {
  awayFromHome,
  toAnotherList,
  restoredAtOrigin,
  followed,
  type Item,
  newEvent,
  newTask,
  type OwnLayer,
  withUid,
} from '@loom/core'
import type { Sql } from '../../data/database.ts'
import {
  type MirrorRow,
  mirrorOf,
  remoteItemOf,
  mirrorRow,
  mirrorRowsById,
} from '../../data/repositories/mirrors.ts'
import { commentsGoOver } from '../../data/repositories/comments.ts'
import { copyOwnLayer, ownLayerOn } from '../../data/repositories/own-layer.ts'
import { addIntent } from '../log/intents.ts'
import { copyGoesOn, staysBehind } from './going-along.ts'
import { tieOf } from '../rules/ties.ts'
import { ruleAt } from '../rules/rules.ts'
import {
  anyMoveFrom,
  lockMoveOf,
  setMoveTarget,
  putMoved,
  movesOfRoot,
  dropMove,
  movesWith,
  dropMoves,
  movedFromCollection,
  addMove,
  type MoveRow,
} from '../../data/repositories/moves.ts'
import { lockTiesOf, moveTie } from '../../data/repositories/ties.ts'
import { ruleById } from '../../data/repositories/rules.ts'
import { originalOf } from '../../data/repositories/originals.ts'
import type { IntentRow } from '../../data/repositories/intents.ts'
import { parsed, json } from '../../data/json.ts'

/**
 * Continues a move once its copy is confirmed: notes and ties go over, then the sub-tasks; when everything has
 * arrived the originals are removed, the parent last. Each step belongs to the transaction that confirms the one
 * before, so a crash loses and doubles nothing.
 */

export async function childrenOfMirror(sql: Sql, row: MirrorRow): Promise<MirrorRow[]> {
  if (remoteItemOf(row).kind !== 'task') return []
  return childrenOf(sql, { collection: row.collection_id, uid: remoteItemOf(row).uid, remote: row.remote_id })
}

export const isOnItsWay = async (sql: Sql, mirrorId: string): Promise<boolean> =>
  (await anyMoveFrom(sql, { mirrorId })) !== null

/** How many it is below the item that is moved. */
function depthOf(move: MoveRow, all: readonly MoveRow[]): number {
  let depth = 0
  for (let at = move.parent_from; at !== null && depth < all.length; depth++)
    at = all.find(m => m.from_mirror === at)?.parent_from ?? null
  return depth
}

/** Goes on with the move that a confirmed copy belongs to, if any. Returns mirrors to be planned anew. */
export async function moveOn(sql: Sql, intent: IntentRow, to: string, remoteId: string): Promise<string[]> {
  const move = await lockMoveOf(sql, {
    uid: intent.uid,
  })
  if (!move) return []
  await setMoveTarget(sql, { to, uid: intent.uid })
  const from = await mirrorRow(sql, { id: move.from_mirror })
  const there = await mirrorRow(sql, { id: to })
  if (!from || !there) return []
  await putMoved(sql, {
    to,
    from: from.id,
    arrived: json(withPlan(there, await ownLayerOn(sql, to))),
  })
  await copyOwnLayer(sql, intent.workspace_id, from.id, to)
  await copyGoesOn(sql, from.id, to)
  await commentsGoOver(sql, { from: from.id, to })
  const tied = await tiesGoOver(sql, mirrorOf(from).item, from.id, mirrorOf(there).item, to)
  for (const child of await childrenOfMirror(sql, from)) {
    // Somebody moves it by itself.
    if (await isOnItsWay(sql, child.id)) continue
    await queueCopy(sql, {
      workspaceId: intent.workspace_id,
      memberId: intent.member_id,
      root: move.root,
      parentFrom: from.id,
      parent: remoteId,
      row: child,
      target: { collectionId: intent.collection_id, connectionId: intent.connection_id },
    })
  }
  await removeOriginals(sql, intent, move.root)
  return [...tied, to]
}

async function tiesGoOver(sql: Sql, before: Item, from: string, after: Item, to: string): Promise<string[]> {
  const ties = await lockTiesOf(sql, { from })
  for (const row of ties) {
    const side = row.a_mirror === from ? 'a' : 'b'
    const rule = await ruleById(sql, { id: row.rule_id })
    const tie = rule && followed(await ruleAt(sql, rule, row.rule_version), tieOf(row), side, before, after)
    await moveTie(sql, side, { id: row.id, to, base: json(tie ? tie.base : parsed(row.base)) })
  }
  return ties.flatMap(t => [t.a_mirror, t.b_mirror]).filter(id => id !== null && id !== from) as string[]
}

/** Once nothing is on its way any more. Parts before what they are parts of. */
async function removeOriginals(sql: Sql, intent: IntentRow, root: string): Promise<void> {
  const all = await movesOfRoot(sql, { root })
  if (all.some(m => m.to_mirror === null)) return
  const rows = await mirrorRowsById(sql, {
    ids: all.map(m => m.from_mirror),
  })
  const below = (m: MoveRow): number => depthOf(m, all)
  for (const m of [...all].sort((x, y) => below(y) - below(x))) {
    const row = rows.find(r => r.id === m.from_mirror)
    if (!row) continue
    const item = remoteItemOf(row)
    const queued = await addIntent(sql, {
      workspaceId: intent.workspace_id,
      connectionId: row.connection_id,
      collectionId: row.collection_id,
      mirrorId: row.id,
      ruleId: null,
      memberId: intent.member_id,
      tieId: null,
      uid: null,
      body: {
        by: 'remover',
        revision: row.revision,
        fields: [{ field: 'title', before: item.summary, after: null }],
      },
      cause: 'person-moved',
      title: item.summary || 'Untitled',
      state: 'open',
    })
    // Somebody is changing the original in this moment: it stays, beside its copy.
    if (!queued) await moveEnds(sql, row.id)
  }
}

/** The move is over for this item, well or not: it is planned like any other again. */
export async function moveEnds(sql: Sql, mirrorId: string): Promise<void> {
  await dropMove(sql, { mirrorId })
}

/** A copy was refused: the originals all stay. */
export async function moveFails(sql: Sql, uid: string): Promise<void> {
  const all = await movesWith(sql, { uid })
  if (all.length === 0) return
  const mirrors = all.map(m => m.from_mirror)
  await dropMoves(sql, { mirrors })
  await staysBehind(sql, mirrors)
}

export interface Copying {
  workspaceId: string
  memberId: string | null
  root: string
  parentFrom: string | null
  /** The id its parent has at the new service. */
  parent: string | null
  row: MirrorRow
  target: { collectionId: string; connectionId: string }
}

/** What the copy is begun with: everything the item says, under an identity of its own. */
function copyOf(item: Item, uid: string, parent: string | null): Item {
  if (item.kind === 'event')
    return { ...newEvent(uid, item.time), ...item, uid, created: null, lastModified: null }
  const { kind: _, ...rest } = item
  return newTask(uid, { ...rest, parent })
}

/** The item as it was where it now goes, if it came from there, and how the place it is at had taken it. */
async function cameFrom(sql: Sql, mirrorId: string, collectionId: string) {
  const row = await movedFromCollection(sql, { mirrorId, collectionId })
  if (!row) return null
  const before = withPlan(row, await ownLayerOn(sql, row.id))
  const parent = before.kind === 'task' ? before.parent : null
  const isThere = await taskNamed(sql, { collectionId, parent })
  const arrived = parsed(row.arrived)
  return { before, arrived, original: row.original, parent: isThere ? parent : null }
}

/** The item with the time that is planned for it, also where we are the ones to keep that. */
function withPlan(row: MirrorRow, { plan }: OwnLayer): Item {
  const { item } = mirrorOf(row)
  return item.kind === 'task' && item.start === null ? { ...item, start: plan } : item
}

/** Returns the uid of what is made. */
export async function queueCopy(sql: Sql, c: Copying): Promise<string> {
  const ours = await ownLayerOn(sql, c.row.id)
  const now = withPlan(c.row, ours)
  const back = await cameFrom(sql, c.row.id, c.target.collectionId)
  const isSameAccount = c.row.connection_id === c.target.connectionId
  const item = back
    ? restoredAtOrigin(back.before, back.arrived, now)
    : isSameAccount
      ? toAnotherList(now)
      : awayFromHome(now)
  const uid = randomUUID()
  const made = { ...copyOf(item, uid, c.parent ?? back?.parent ?? null), uid }
  await addMove(sql, {
    uid,
    workspaceId: c.workspaceId,
    root: c.root,
    from: c.row.id,
    parentFrom: c.parentFrom,
  })
  // For a new home that has no room for them.
  const own: Partial<OwnLayer> =
    item.kind === 'task'
      ? {
          plan: item.start,
          planMinutes: ours.planMinutes,
          ...(item.estimatedDuration && { estimate: item.estimatedDuration }),
        }
      : {}
  const kept =
    item.kind === 'event'
      ? await originalOf(sql, {
          id: c.row.id,
        })
      : null
  // Alarms and whatever else we do not understand go along where the new home is a calendar too.
  const asObject = [kept?.original, back?.original].find(text => text && /^BEGIN:VCALENDAR/i.test(text))
  const original = item.kind === 'event' && asObject ? withUid(asObject, uid) : null
  await addIntent(sql, {
    workspaceId: c.workspaceId,
    connectionId: c.target.connectionId,
    collectionId: c.target.collectionId,
    mirrorId: null,
    ruleId: null,
    memberId: c.memberId,
    tieId: null,
    uid,
    body: { by: 'maker', item: made, original, own },
    cause: 'person-move',
    title: item.summary || 'Untitled',
    state: 'open',
  })
  return uid
}
