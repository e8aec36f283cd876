import {
  type IntentBody,
  lastEditor,
  dropUnsentOfRules,
  dropUnsentRemoval,
} from '../data/repositories/intents.ts'
import { tiesToBlock } from '../data/repositories/blocks.ts'
import {
  decideEdit,
  type Edit,
  type EditPlan,
  type Event,
  type FieldChange,
  roundOf,
  type Task,
  ONLY_LOOK,
  onlyLooks,
  MOVES,
  type Standing,
  standingText,
  parseEvent,
  parseTask,
  asInPatch,
} from '@loom/core'
import { randomUUID } from 'node:crypto'
import { sightIn } from '../access/sight.ts'
import type { Sql, Tx } from '../data/database.ts'
import { remoteItemOf, lockPlaceOf, mirrorRow, becomeUnseen } from '../data/repositories/mirrors.ts'
import { putOwnLayer } from '../data/repositories/own-layer.ts'
import type { Context } from '../context/context.ts'
import { addIntent, addToWaiting } from '../sync/log/intents.ts'
import { DEFAULT_MINUTES } from './cloth.ts'
import { inWordsOf } from './category-words.ts'
import { drawn, loadPairs, lockPair, type Pair, pairOf } from './pairs.ts'
import { invitingBy } from './guests.ts'
import { noteTimeOf } from './noted-time.ts'
import { ownWay } from './own-way.ts'
import { leaveOut, takeIn } from '../data/repositories/left-out.ts'
import { mirrorWithOriginal } from '../data/repositories/originals.ts'

import type { Member } from '../data/repositories/sessions.ts'

/** A person's edit becomes an intent like any other, and goes before a rule's. */

export type EditAnswer =
  | { ok: true; inverse: Edit | null; connectionId: string | null; meanwhile?: Meanwhile | null }
  | { ok: false; status: 404 | 409; reason: string }

/** Where an item stood when it was moved, if that was not where its mover saw it; `who` moved it there, if a member. */
export interface Meanwhile extends Standing {
  who: string | null
}

/** Null while it is being sent: what may have arrived is not cancelled, but undone once its result is known. */
export type TakenBack = EditAnswer | null

type PersonBody = Extract<IntentBody, { by: 'person' }>

const GONE: EditAnswer = { ok: false, status: 404, reason: 'It is no longer there.' }

/** What an edit is a part of, as the journal tells it. */
export interface Act {
  /** What else belongs to it. */
  passId?: string
  /** Why, where no person did it by hand. */
  cause?: string
}

/**
 * @param was where its mover saw it, as `standingText`; null where that is not minded
 */
export async function editItem(
  ctx: Context,
  member: Member,
  key: string,
  edit: Edit,
  was: string | null = null,
  act: Act = {},
): Promise<EditAnswer> {
  const mirrorId = key.split('@')[0] ?? key
  const answer = await ctx.db.commit(async (sql): Promise<EditAnswer> => {
    // Edits of one item are decided one after the other, each upon what the last one left.
    await lockPair(sql, mirrorId)
    if (edit.do === 'restore') return restore(sql, member, mirrorId)
    const { pairs, sources } = await loadPairs(sql, member, [mirrorId])
    const pair = pairOf(pairs, mirrorId)
    const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
    const item = pair && drawn(pair, viewer)
    if (!pair || !item) return GONE
    const said = await asWritten(sql, member, pair, edit)
    if ('reason' in said) return { ok: false, status: 409, reason: said.reason }
    const planned = decideEdit({ item, task: pair.task, event: pair.event }, said)
    if (!planned.ok) return { ok: false, status: 409, reason: planned.reason }
    const { write, own, remove, leftOut, inverse } = planned
    const barred =
      edit.do === 'keep-private' ? await notTheirs(sql, member, pair) : mayNot(pair, planned, edit)
    if (barred) return { ok: false, status: 409, reason: barred }
    if (edit.do === 'keep-private') await keepHalvesPrivate(sql, member, pair, edit.private)
    const touched: string[] = []
    if (own) {
      await putOwnLayer(sql, member.workspaceId, own.mirrorId, own.layer)
      touched.push(own.mirrorId)
    }
    if (leftOut !== null) await setLeftOut(sql, member, mirrorId, leftOut)
    const owner = write && [pair.task, pair.event].find(s => s?.id === write.mirrorId)
    let connectionId: string | null = null
    if (write && owner) {
      const before = asInPatch(owner.item, write.patch)
      const round = write.patch.status === 'completed' ? roundOf(owner.item) : null
      const body: PersonBody = {
        by: 'person',
        patch: write.patch,
        before,
        ...(round && { occurrence: round }),
      }
      const way = await ownWay(sql, member, owner)
      connectionId = await queue(sql, member, way, body, act.cause ?? `person-${edit.do}`, item.title, act)
    }
    const removed = remove && [pair.task, pair.event].find(s => s?.id === remove)
    if (removed) {
      const way = await ownWay(sql, member, removed)
      connectionId = await queueRemoval(sql, member, way, item.title, act.cause ?? 'person-delete', act)
    }
    await noteTimeOf(sql, { member, now: viewer.now }, { pair, item, sources }, edit)
    const lists = [pair.task, pair.event].flatMap(h => (h ? [h.collectionId] : []))
    // What somebody leaves out, and what is private, is another sight of it.
    const isExact = leftOut === null && edit.do !== 'keep-private'
    const exact = isExact ? { exact: true as const, lists } : {}
    sql.tell(member.workspaceId, { topics: ['cloth'], ...exact }, touched)
    const isElsewhere = was !== null && MOVES.has(edit.do) && standingText(item) !== was
    const meanwhile = isElsewhere ? await movedMeanwhile(ctx, sql, member, pair, item) : null
    return { ok: true, inverse, connectionId, meanwhile }
  })
  return answer
}

const MEANWHILE_MS = 15 * 60_000
async function movedMeanwhile(
  ctx: Context,
  sql: Sql,
  member: Member,
  { task, event }: Pair,
  { place, week, putBy }: Standing,
): Promise<Meanwhile> {
  const ids = [task, event].flatMap(h => (h ? [h.id] : []))
  const since = ctx.now() - MEANWHILE_MS
  return { place, week, putBy, who: await lastEditor(sql, { ids, since, but: member.id }) }
}

/** Whether what an edit comes to is on a half that whoever asks may only look at; the reason, or null. */
function mayNot(
  { task, event }: Pair,
  { write, own, remove }: Extract<EditPlan, { ok: true }>,
  edit: Edit,
): string | null {
  const touched = [write?.mirrorId, own?.mirrorId, remove]
  const halves = [task, event].filter(s => s && touched.includes(s.id) && onlyLooks(s))
  const isGiven = isStatusEdit(edit) && halves.every(s => s?.completes === true)
  return halves.length === 0 || isGiven ? null : ONLY_LOOK
}
const isStatusEdit = ({ do: what }: Edit): boolean =>
  what === 'complete' || what === 'reopen' || what === 'cancel'

/** Only what is one's own can be kept private: whoever looks after the team's would lose sight of it. */
async function notTheirs(sql: Sql, member: Member, pair: Pair): Promise<string | null> {
  const sight = await sightIn(sql, member)
  const halves = [pair.task, pair.event, ...pair.twins].filter(h => h !== null)
  const own = halves.filter(h => sight.owns(h.collectionId))
  if (own.length === 0) return 'Only what is your own can be kept private.'
  return own.length === halves.length
    ? null
    : 'Its counterpart is in a list that is not yours, so others would still see it there. Part the two first.'
}

/** All that is theirs of it: a half that is still shown would tell. */
async function keepHalvesPrivate(sql: Sql, member: Member, pair: Pair, isPrivate: boolean): Promise<void> {
  const sight = await sightIn(sql, member)
  for (const half of [pair.task, pair.event, ...pair.twins])
    if (half && sight.owns(half.collectionId))
      await putOwnLayer(sql, member.workspaceId, half.dateOf?.seriesId ?? half.id, { private: isPrivate })
}

/** Categories are written in the words of the service that holds the item, and whoever invites is named. */
async function asWritten(
  sql: Sql,
  member: Member,
  pair: Pair,
  edit: Edit,
): Promise<Edit | { reason: string }> {
  const side = pair.task ?? pair.event
  if (edit.do === 'invite' && pair.event && !onlyLooks(pair.event))
    return invitingBy(sql, member, pair.event.id, edit)
  if (edit.do !== 'say' || !side?.kept) return edit
  const where = {
    workspaceId: member.workspaceId,
    connectionId: side.kept.connectionId,
    present: side.item.categories,
  }
  return { ...edit, said: await inWordsOf(sql, edit.said, where) }
}

async function setLeftOut(sql: Sql, member: Member, mirrorId: string, out: boolean): Promise<void> {
  const params = { memberId: member.id, mirrorId, workspaceId: member.workspaceId }
  if (out) await leaveOut(sql, params)
  else await takeIn(sql, params)
}

export async function queue(
  sql: Sql,
  member: Member,
  mirrorId: string,
  body: Extract<IntentBody, { by: 'person' | 'remover' }>,
  cause: string,
  title: string,
  { passId }: Act = {},
): Promise<string | null> {
  const home = await lockPlaceOf(sql, { mirrorId })
  if (!home) return null
  // A rule's write that was not sent yet gives way; the rule plans again after ours.
  await dropUnsentOfRules(sql, { mirrorId })
  if (body.by === 'person' && (await addToWaiting(sql, member.id, mirrorId, body))) return home.connection_id
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
    cause,
    title,
    ...(passId && { passId }),
  }
  if (!(await addIntent(sql, { ...intent, state: 'open' })))
    await addIntent(sql, { ...intent, state: 'waiting' })
  return home.connection_id
}

/** Everything it holds is named, so that the journal can tell what was lost. */
function fieldsLost(item: Task | Event): FieldChange[] {
  const lost = (field: FieldChange['field'], before: unknown): FieldChange[] =>
    before === null || before === '' ? [] : [{ field, before, after: null }]
  return [
    ...lost('title', item.summary),
    ...lost('time', item.kind === 'event' ? item.time : item.start && { start: item.start }),
    ...lost('notes', item.description),
    ...(item.kind === 'task' ? lost('due', item.due) : []),
    ...lost('location', item.location ?? ''),
  ]
}

export async function queueRemoval(
  sql: Tx,
  member: Member,
  mirrorId: string,
  title: string,
  cause: string,
  act: Act = {},
): Promise<string | null> {
  const row = await mirrorRow(sql, { id: mirrorId })
  if (!row) return null
  const fields = fieldsLost(remoteItemOf(row))
  return queue(sql, member, mirrorId, { by: 'remover', revision: row.revision, fields }, cause, title, act)
}

/**
 * Undoes a deletion: cancels it if it was not sent yet, else makes the item again from its kept copy. A service
 * that chooses ids gives it a new one.
 */
async function restore(sql: Tx, member: Member, mirrorId: string): Promise<EditAnswer> {
  const waiting = await dropUnsentRemoval(sql, { mirrorId, memberId: member.id })
  const inverse: Edit = { do: 'delete' }
  if (waiting > 0) {
    sql.tell(member.workspaceId, { topics: ['cloth'], exact: true }, [mirrorId])
    return { ok: true, inverse, connectionId: null }
  }
  const row = await mirrorWithOriginal(sql, { mirrorId, workspaceId: member.workspaceId })
  if (!row || !(await sightIn(sql, member)).sees(row.collection_id, 'change')) return GONE
  if (row.presence !== 'gone')
    return { ok: false, status: 409, reason: 'It is still there, or on its way out: try again in a moment.' }
  const asObject = row.original?.startsWith('BEGIN:VCALENDAR') ? row.original : null
  const kept = remoteItemOf(row)
  const item = asObject ? (kept.kind === 'task' ? parseTask(asObject) : parseEvent(asObject)) : kept
  // A block is time for its task again, and a batch holds what it held.
  const ties = await tiesToBlock(sql, { mirrorId })
  // The same item comes back; it is not a new one.
  await becomeUnseen(sql, { mirrorId })
  await addIntent(sql, {
    workspaceId: member.workspaceId,
    connectionId: row.connection_id,
    collectionId: row.collection_id,
    mirrorId: null,
    ruleId: null,
    memberId: member.id,
    tieId: null,
    uid: item.uid || randomUUID(),
    body: { by: 'maker', item, original: asObject, binds: ties.map(t => t.id) },
    cause: 'person-restore',
    title: item.summary || 'Untitled',
    state: 'open',
  })
  sql.tell(member.workspaceId, { topics: ['cloth'], exact: true, lists: [row.collection_id] })
  return { ok: true, inverse, connectionId: row.connection_id }
}
