import {
  type IntentBody,
  droppedSince,
  addIntentOnce,
  lockLastUnsent,
  putIntentBody,
  lockWaiting,
  setIntentState,
  openNextFor,
  type IntentRow,
} from '../../data/repositories/intents.ts'
import { randomUUID } from 'node:crypto'
import { asInPatch, type FieldChange, type Guest, type Item, type ItemPatch, sameValue } from '@loom/core'
import type { RemoteWrite } from '@loom/connectors'
import type { Sql } from '../../data/database.ts'
import type { MirrorRow } from '../../data/repositories/mirrors.ts'
import { parsed, json } from '../../data/json.ts'

export const opOf = (body: IntentBody): 'create' | 'patch' | 'delete' =>
  body.by === 'rule'
    ? body.write.op
    : body.by === 'maker'
      ? 'create'
      : body.by === 'remover'
        ? 'delete'
        : 'patch'

/** The round of a repeating task that a write completes, if it does. */
export const roundIn = (body: IntentBody): string | null =>
  (body.by === 'person'
    ? body.occurrence
    : body.by === 'rule' && body.write.op === 'patch'
      ? body.write.occurrence
      : null) ?? null

/** Whether the service has moved a task on since that round of it was to be completed. */
export function hasMovedOn(body: IntentBody, item: Item): boolean {
  const round = roundIn(body)
  return round !== null && item.kind === 'task' && item.occurrence !== round
}

/** The journal entry that this puts back, if any. */
export const undoesOf = (body: IntentBody): number | null =>
  'undoes' in body && body.undoes !== undefined ? body.undoes : null

/** What the journal says of an intent, field by field. */
export function fieldsOf(body: IntentBody): FieldChange[] {
  if (body.by === 'rule') return body.write.fields
  if (body.by === 'person') return body.fields ?? changesOf(body.before, body.patch)
  if (body.by === 'remover') return body.fields
  const { item } = body
  const fields: FieldChange[] = [{ field: 'title', before: undefined, after: item.summary }]
  if (item.description) fields.push({ field: 'notes', before: undefined, after: item.description })
  if (item.kind === 'event') fields.push({ field: 'time', before: undefined, after: item.time })
  else if (item.start) fields.push({ field: 'time', before: undefined, after: { start: item.start } })
  return fields
}

/** Properties that are told as they are. */
const PLAIN: [keyof ItemPatch, FieldChange['field']][] = [
  ['due', 'due'],
  ['priority', 'priority'],
  ['categories', 'categories'],
  ['assignees', 'people'],
  ['location', 'location'],
  ['url', 'link'],
]

function changesOf(before: ItemPatch, after: ItemPatch): FieldChange[] {
  const fields: FieldChange[] = []
  if (after.summary !== undefined)
    fields.push({ field: 'title', before: before.summary, after: after.summary })
  if (after.guests) {
    const names = (all: readonly Guest[]): string[] => all.map(g => g.name || g.email)
    fields.push({ field: 'people', before: names(after.guests.drop), after: names(after.guests.add) })
  }
  if (after.description !== undefined)
    fields.push({ field: 'notes', before: before.description, after: after.description })
  if (after.status !== undefined)
    fields.push({
      field: 'completion',
      before: before.status === 'completed',
      after: after.status === 'completed',
    })
  if (after.time !== undefined) fields.push({ field: 'time', before: before.time, after: after.time })
  if (after.start !== undefined)
    fields.push({ field: 'time', before: { start: before.start }, after: { start: after.start } })
  for (const [name, field] of PLAIN)
    if (after[name] !== undefined) fields.push({ field, before: before[name], after: after[name] })
  return fields
}

/** An intent with what it is about, and the request that it comes to as things stand. */
export interface Job {
  row: IntentRow
  body: IntentBody
  mirror: MirrorRow | null
  remote: RemoteWrite
  /** Where the item is one date of a series: the series, which is what is written to. */
  series: MirrorRow | null
  /** It has changed since this was decided. */
  stale?: boolean
}

export const bodyOf = (row: IntentRow): IntentBody => parsed(row.body)

export interface NewIntent {
  workspaceId: string
  connectionId: string
  collectionId: string
  mirrorId: string | null
  ruleId: string | null
  memberId: string | null
  tieId: string | null
  uid: string | null
  body: IntentBody
  cause: string
  title: string
  state: 'open' | 'waiting'
  passId?: string
  removal?: boolean
}

/** Writes that keep coming to nothing are tried ever more slowly: no service is hammered. */
async function notBefore(sql: Sql, mirrorId: string | null): Promise<number> {
  if (mirrorId === null) return 0
  const recent = await droppedSince(sql, { mirrorId, since: Date.now() - 60_000 })
  const vain = recent?.n ?? 0
  return vain < 3 ? 0 : Date.now() + 250 * 2 ** Math.min(vain, 8)
}

/** False when another write for the same item is open already. */
export async function addIntent(sql: Sql, intent: NewIntent): Promise<boolean> {
  const id = randomUUID()
  const nextTryAt = intent.memberId ? 0 : await notBefore(sql, intent.mirrorId)
  return addIntentOnce(sql, {
    passId: null,
    ...intent,
    removal: intent.removal ? 1 : 0,
    id,
    nextTryAt,
    body: json(intent.body),
    madeAt: Date.now(),
  })
}

/** Adds to what this person has in hand for the item already, if it was not sent yet. */
export async function addToWaiting(
  sql: Sql,
  memberId: string,
  mirrorId: string,
  add: Extract<IntentBody, { by: 'person' }>,
): Promise<boolean> {
  const last = await lockLastUnsent(sql, { mirrorId, memberId })
  const body = last ? parsed(last.body) : null
  if (!last || body?.by !== 'person' || body.undoes !== undefined) return false
  // Two changes of one series are about two of its dates, and two of its guests about different people.
  if ([body.patch, add.patch].some(p => p.series || p.guests)) return false
  const patch = { ...body.patch, ...add.patch }
  const occurrence = patch.status === 'completed' ? (add.occurrence ?? body.occurrence) : undefined
  const merged: IntentBody = {
    by: 'person',
    patch,
    before: { ...add.before, ...body.before },
    ...(occurrence !== undefined && { occurrence }),
  }
  await putIntentBody(sql, {
    id: last.id,
    body: json(merged),
  })
  return true
}

/**
 * A person's edit made while a write of ours to the item was under way was based on the item before it. Our write
 * is not another person's change, so it does not count as a conflict with that edit.
 */
export async function rebaseWaiting(
  sql: Sql,
  mirrorId: string,
  from: { item: Item; revision: string },
  to: { item: Item; revision: string },
): Promise<void> {
  const waiting = await lockWaiting(sql, { mirrorId })
  for (const { id, body: text } of waiting) {
    const body = parsed(text)
    if (body.by === 'remover' && body.revision === from.revision) body.revision = to.revision
    else if (body.by === 'person') {
      const was = asInPatch(from.item, body.before) as Record<string, unknown>
      const now = asInPatch(to.item, body.before) as Record<string, unknown>
      const before = body.before as Record<string, unknown>
      for (const k of Object.keys(before)) if (sameValue(before[k], was[k])) before[k] = now[k]
    } else continue
    await putIntentBody(sql, { id, body: json(body) })
  }
}

/** Ends an intent and lets the next one for the item begin. */
export async function endIntent(
  sql: Sql,
  row: IntentRow,
  state: 'confirmed' | 'refused' | 'dropped',
  reason: string | null = null,
): Promise<void> {
  await setIntentState(sql, {
    id: row.id,
    state,
    reason,
  })
  if (row.mirror_id === null) return
  await openNextFor(sql, { mirror: row.mirror_id })
}
