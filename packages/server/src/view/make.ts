import { sightIn } from '../access/sight.ts'
import { mayWorkOn } from './rights.ts'
import { taskRow } from '../data/repositories/chosen-items.ts'
import { homeOfNew, type HomeOfNew } from '../data/repositories/targets.ts'
import { randomUUID } from 'node:crypto'
import {
  composeNewEvent,
  datesOfSeries,
  epochOf,
  EventPatch,
  type Item,
  type Making,
  newEvent,
  newTask,
  parseEvent,
  type Said,
  SAID_WORDS,
  type OwnLayer,
  type Task,
  type TieMemory,
  uidOfBlock,
  withMarks,
} from '@loom/core'
import type { Sql } from '../data/database.ts'
import { type MirrorRow, mirrorOf } from '../data/repositories/mirrors.ts'
import { intakeOf, OWN_EVENTS } from '../own/connector.ts'
import { blocksRuleOf } from '../sync/rules/blocks-rule.ts'
import { termsOfCollection } from '../sync/rules/rules.ts'
import { idFor } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { addIntent } from '../sync/log/intents.ts'
import { inWordsOf } from './category-words.ts'
import { unsupportedAt } from '../sync/push/unsupported-fields.ts'

import { personOfMember } from '../data/repositories/people.ts'
import { membersNamed } from '../data/repositories/members.ts'
import { ruleWithEventsFor, OWN_BLOCKS } from '../data/repositories/rules.ts'
import { addTieToCome } from '../data/repositories/ties.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { json } from '../data/json.ts'

/** An item made on the Cloth becomes an intent to create it in its collection. */

export type Made =
  /** `intent` identifies it until its service has confirmed it; `lost`: what the place cannot hold, in words; `ties`: to its tasks. */
  | { ok: true; intent: string; connectionId: string; place: string; lost: string[]; ties: string[] }
  | { ok: false; reason: string }

const OWN_LIST: Record<Making['what'], (member: Member) => string> = {
  event: () => OWN_EVENTS,
  block: () => OWN_BLOCKS,
  batch: () => OWN_BLOCKS,
  task: member => intakeOf(member.id),
}

/**
 * @param passId what else belongs to the same act, in the journal
 * @param uid where it has one already; a second one under it is refused
 */
export async function makeItem(
  ctx: Context,
  member: Member,
  asked: Making,
  { passId, uid }: { passId?: string; uid?: string } = {},
): Promise<Made> {
  const answer = await ctx.db.commit(async (sql): Promise<Made> => {
    const home = await homeOfNew(sql, {
      workspaceId: member.workspaceId,
      into: asked.into,
      ownList: OWN_LIST[asked.what](member),
    })
    const refused = (reason: string): Made => ({ ok: false, reason })
    if (!home || !(await sightIn(sql, member)).sees(home.id, 'change'))
      return refused('There is no such list or calendar.')
    if (home.writable === 0) return refused(`${home.place} can only be read.`)
    if (home.takes_part === 0)
      return refused(`${home.place} does not take part. Choose it under Connections.`)
    if ((home.itemKind === 'task') !== (asked.what === 'task'))
      return refused(`${home.place} holds ${home.itemKind === 'task' ? 'tasks' : 'events'}.`)
    const where = { workspaceId: member.workspaceId, connectionId: home.connection_id, present: [] }
    const making = { ...asked, said: await inWordsOf(sql, asked.said, where) }
    const tasks: MirrorRow[] = []
    const wanted = making.what === 'block' ? [making.task] : making.what === 'batch' ? making.tasks : []
    if (!(await mayWorkOn(sql, member, wanted))) return refused('One of the tasks is no longer there.')
    for (const id of wanted) {
      const row = await taskRow(sql, { id, workspaceId: member.workspaceId })
      if (!row) return refused('One of the tasks is no longer there.')
      tasks.push(row)
    }
    const {
      item,
      original,
      own,
      lost = [],
    } = await madeOf(ctx, sql, member, making, tasks[0] ?? null, home, uid)
    const binds: string[] = []
    // What a batch that repeats is made with is for its first date.
    const first = making.what === 'batch' && item.recurring && original ? firstDate(original) : undefined
    for (const [place, row] of tasks.entries())
      binds.push(await tieTo(sql, ctx, member, making, row, { place, occurrence: first }))
    const intentUid = item.uid
    const intent = {
      workspaceId: member.workspaceId,
      connectionId: home.connection_id,
      collectionId: home.id,
      mirrorId: null,
      ruleId: null,
      memberId: member.id,
      tieId: null,
      uid: intentUid,
      body: { by: 'maker' as const, item, original, binds, own },
      cause: `person-${making.what}`,
      title: item.summary || 'Untitled',
      state: 'open' as const,
      ...(passId && { passId }),
    }
    await addIntent(sql, intent)
    sql.tell(member.workspaceId, { topics: ['cloth'], exact: true, lists: [home.id] })
    return {
      ok: true,
      intent: intentUid,
      connectionId: home.connection_id,
      place: home.place,
      lost,
      ties: binds,
    }
  })
  return answer
}

interface Drafted {
  item: Item
  original: string | null
  own: Partial<OwnLayer>
  lost?: string[]
}

async function madeOf(
  ctx: Context,
  sql: Sql,
  member: Member,
  making: Making,
  task: MirrorRow | null,
  home: HomeOfNew,
  given?: string,
): Promise<Drafted> {
  const uid = task
    ? uidOfBlock(idFor, (await termsOfCollection(sql, task.collection_id)).identity, randomUUID())
    : (given ?? randomUUID())
  if (making.what === 'task') {
    const { title, start, estimate, said, week } = making
    const account = making.for
      ? await personOfMember(sql, { connection: home.connection_id, member: making.for })
      : null
    // Whom it is for is not lost where its service has no account of theirs.
    const [named] = making.for && !account ? await peopleNamed(sql, member, [making.for]) : []
    const { unsupported, estimateStep } = await unsupportedAt(sql, home.id)
    // What a service would round is kept by us as it was said.
    const inSteps = estimateStep !== null && (estimate ?? 0) % estimateStep !== 0 ? null : estimate
    const item = newTask(uid, {
      ...said,
      summary: named ? `${title} (for ${named.name})` : title,
      start,
      estimatedDuration: inSteps,
      ...(account && { assignees: [account.remote_id] }),
    })
    const own: Partial<OwnLayer> = {
      ...(estimate && { estimate }),
      ...(week && !start && { week }),
      ...(unsupported.has('start') && { plan: start }),
    }
    const asked = (Object.keys(said) as (keyof Said)[]).filter(f => said[f] !== null)
    return { item, original: null, own, lost: asked.filter(f => unsupported.has(f)).map(f => SAID_WORDS[f]) }
  }
  const time = { anchor: making.start, minutes: making.minutes }
  if (making.what === 'block') {
    const of = task ? (mirrorOf(task).item as Task).summary : ''
    const categories = making.into === null ? [] : withMarks([], { movable: true, kind: 'task block' })
    const { transparency, class: seenBy } = making.said
    const seen = { ...(transparency && { transparency }), ...(seenBy && { class: seenBy }) }
    const item = newEvent(uid, time, { ...seen, summary: making.title ?? of, categories })
    return { item, original: null, own: {} }
  }
  const { said } = making
  const kind = making.what === 'batch' ? 'batch' : making.kind
  const movable = making.what === 'batch' ? true : undefined
  const categories = withMarks(said.categories ?? [], {
    kind: kind === 'other' ? null : kind,
    ...(movable && { movable }),
  })
  const item = newEvent(uid, time, {
    ...EventPatch.parse(said),
    summary: making.title,
    categories: making.into === null ? (said.categories ?? []) : categories,
  })
  const guests = making.what === 'event' ? await peopleNamed(sql, member, making.guests) : []
  const [me] = await peopleNamed(sql, member, [member.id])
  const own = kind === 'other' ? {} : { eventKind: kind }
  if (!making.repeats && guests.length === 0) return { item, original: null, own }
  const original = composeNewEvent(
    item,
    { repeats: making.repeats, organizer: me ?? null, guests },
    ctx.now(),
  )
  return {
    item: {
      ...item,
      recurring: making.repeats !== null,
      attendees: guests.length,
      ...(guests.length > 0 && {
        invited: {
          by: me?.email.toLowerCase() ?? null,
          guests: guests.map(g => ({ email: g.email.toLowerCase(), answer: 'none' as const })),
        },
      }),
    },
    original,
    own,
  }
}

/** The first date of a series, as RECURRENCE-ID names it. */
function firstDate(original: string): string | undefined {
  const at = epochOf(parseEvent(original).time.anchor, 'UTC')
  return datesOfSeries(original, at - DAY_MS, at + DAY_MS, 'UTC')[0]?.occurrence
}
const DAY_MS = 86_400_000

async function peopleNamed(
  sql: Sql,
  member: Member,
  ids: readonly string[],
): Promise<{ name: string; email: string }[]> {
  if (ids.length === 0) return []
  const outside = ids.filter(id => id.includes('@')).map(email => ({ name: '', email }))
  return [...(await membersNamed(sql, { workspaceId: member.workspaceId, ids: [...ids] })), ...outside]
}

/** The rule that pairs the task already, so that a block can take the event's place; else the blocks' own. */
async function ruleFor(sql: Sql, ctx: Context, member: Member, task: string, role: 'block' | 'batch') {
  const pairing = role === 'block' ? await ruleWithEventsFor(sql, { task }) : null
  if (pairing) return pairing
  return { id: await blocksRuleOf(sql, member.workspaceId, ctx.now()), version: 1 }
}

/** The event's side is bound when its service has confirmed it. */
async function tieTo(
  sql: Sql,
  ctx: Context,
  member: Member,
  making: Making,
  task: MirrorRow,
  { place, occurrence }: Pick<TieMemory, 'place' | 'occurrence'>,
): Promise<string> {
  const role = making.what === 'batch' ? 'batch' : 'block'
  const rule = await ruleFor(sql, ctx, member, task.id, role)
  const ownTitle = making.what === 'block' && making.title !== null
  const memory: TieMemory = {
    ...(ownTitle && { ownTitle }),
    ...(role === 'batch' && { place, ...(occurrence !== undefined && { occurrence }) }),
  }
  const id = randomUUID()
  await addTieToCome(sql, {
    id,
    workspaceId: member.workspaceId,
    rule: rule.id,
    version: rule.version,
    role,
    a: task.id,
    base: json({}),
    memory: json(memory),
    now: ctx.now(),
  })
  return id
}
