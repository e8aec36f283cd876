import { ONLY_LOOK, reaches } from '@loom/core'
import { sightIn } from '../access/sight.ts'
import { levelsOf } from '../access/rights.ts'
import { lockToMove } from '../data/repositories/chosen-items.ts'
import { targetOfMove, type MoveTarget } from '../data/repositories/targets.ts'
import { countBlocks } from '../data/repositories/blocks.ts'
import { type Item, type SideTerms, whenWords } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { type MirrorRow, mirrorOf } from '../data/repositories/mirrors.ts'
import type { Context } from '../context/context.ts'
import { staysBehind } from '../sync/move/going-along.ts'
import { childrenOfMirror, isOnItsWay, moveFails, queueCopy } from '../sync/move/moves.ts'
import { termsOfCollection } from '../sync/rules/rules.ts'
import { unsupportedAt } from '../sync/push/unsupported-fields.ts'
import { parentNamed } from '../data/repositories/subtasks.ts'
import type { TakenBack } from './edit.ts'

import { dropUnsentOf } from '../data/repositories/intents.ts'
import { stateOfMove, anyMoveInRoot } from '../data/repositories/moves.ts'
import type { Member } from '../data/repositories/sessions.ts'

/**
 * Moves an item to another list or service: first a copy, then what belongs to it, and the original last. What the
 * new place cannot hold is named first. Undo cancels a move that was not sent yet, and else moves the item back
 * with everything it had.
 */

export interface MoveOutlook {
  to: string
  /** What the new home cannot hold, as sentences. */
  losses: string[]
  /** How many sub-tasks and blocks go along. */
  parts: number
  blocks: number
}

type Judged =
  { ok: false; reason: string } | { ok: true; row: MirrorRow; target: MoveTarget; outlook: MoveOutlook }

async function judge(sql: Sql, member: Member, key: string, to: string): Promise<Judged> {
  const { workspaceId } = member
  const refused = (reason: string): Judged => ({ ok: false, reason })
  const row = await lockToMove(sql, { key, workspaceId })
  const target = await targetOfMove(sql, { to, workspaceId })
  const level = (await levelsOf(sql, member, [key]))(key)
  if (!row || !reaches(level, 'title')) return refused('It is no longer there.')
  if (!target || !(await sightIn(sql, member)).sees(target.id, 'change'))
    return refused('There is no such list or calendar.')
  if (level !== 'change') return refused(ONLY_LOOK)
  const { item } = mirrorOf(row)
  if (row.collection_id === target.id) return refused('It is there already.')
  if (target.itemKind !== item.kind)
    return refused(`${target.place} holds ${target.itemKind === 'task' ? 'tasks' : 'events'}.`)
  if (target.writable === 0) return refused(`${target.place} can only be read.`)
  if (row.writable === 0) return refused('Where it lives can only be read, so it cannot be taken from there.')
  if (item.recurring) return refused('It repeats. Move a series in its own service.')
  if (item.kind === 'event' && item.attendees > 0)
    return refused('It has guests. Move it in its own calendar, so that they are told.')
  if (await isOnItsWay(sql, key)) return refused('It is being moved already.')
  const parts = await childrenOfMirror(sql, row)
  const blocks = await countBlocks(sql, { key })
  const there: NewHome = {
    terms: await termsOfCollection(sql, target.id),
    unsupported: (await unsupportedAt(sql, target.id)).unsupported,
    holdsLinks: !(await unsupportedAt(sql, row.collection_id)).unsupported.has('url'),
    isSameAccount: target.connection_id === row.connection_id,
  }
  const outlook = {
    to: target.place,
    losses: [
      ...lossesOf(item, there, member.zone),
      ...(await lossOfParent(sql, row, item)),
      ...lossesOfParts(parts, there, member.zone),
    ],
    parts: parts.length,
    blocks: Number(blocks?.n ?? 0),
  }
  return { ok: true, row, target, outlook }
}

interface NewHome {
  terms: SideTerms
  /** Properties that nobody can write there. */
  unsupported: ReadonlySet<string>
  /** Where it is now a link is what a person gave it; elsewhere it is the address of its own page. */
  holdsLinks: boolean
  /** Its people and their accounts are those of where the item is now. */
  isSameAccount: boolean
}

/** Named one by one, up to here. */
const MOST_NAMED = 8

/** A sub-task that is moved by itself leaves what it is a part of. */
async function lossOfParent(sql: Sql, row: MirrorRow, item: Item): Promise<string[]> {
  if (item.kind !== 'task' || item.parent === null) return []
  const parent = await parentNamed(sql, { connection: row.connection_id, parent: item.parent })
  return parent ? [`That it is a part of “${parent.title}”: there it stands by itself.`] : []
}

/** What is lost of the sub-tasks that go along. */
function lossesOfParts(parts: readonly MirrorRow[], there: NewHome, zone: string): string[] {
  if (parts.length === 0) return []
  const [one] = parts
  const apart = there.unsupported.has('parent')
    ? [
        parts.length === 1 && one
          ? `That “${mirrorOf(one).item.summary}” is a part of it: there it stands by itself.`
          : `That its ${parts.length} sub-tasks are parts of it: there each stands by itself.`,
      ]
    : []
  const lost = parts.flatMap(row => {
    const { item } = mirrorOf(row)
    return lossesOf(item, there, zone).map(loss => `Of its sub-task “${item.summary}”: ${lowered(loss)}`)
  })
  const more = lost.length - MOST_NAMED
  return [...apart, ...lost.slice(0, MOST_NAMED), ...(more > 0 ? [`And ${more} more of its sub-tasks.`] : [])]
}

const lowered = (sentence: string): string => sentence.charAt(0).toLowerCase() + sentence.slice(1)

/** What the new home cannot hold, each with what would be lost. What we can keep ourselves is not lost. */
function lossesOf(
  item: Item,
  { terms, unsupported, holdsLinks, isSameAccount }: NewHome,
  zone: string,
): string[] {
  const lost: string[] = []
  const { canHold, summaryMaxLength, precision, duePrecision } = terms
  if (item.description && !canHold.notes) lost.push('Its notes: there is no room for notes there.')
  if (summaryMaxLength !== null && Array.from(item.summary).length > summaryMaxLength)
    lost.push(`The end of its title: there is room for ${summaryMaxLength} characters there.`)
  if (item.location && !canHold.location) lost.push(`Its place, ${item.location}.`)
  if (item.kind !== 'task') return lost
  if (item.due && !canHold.due) lost.push(`Its due date, ${whenWords(item.due, zone)}.`)
  const hours = [
    { when: canHold.start ? item.start : null, kept: precision, of: 'plan' },
    { when: item.due, kept: duePrecision, of: 'deadline' },
  ].filter(d => d.when !== null && d.when.kind !== 'date' && d.kept === 'day')
  if (hours.length > 0)
    lost.push(`The hour of its ${hours.map(d => d.of).join(' and ')}: only days are kept there.`)
  if (item.priority > 0 && !canHold.priority) lost.push('Its priority.')
  if (item.categories.length > 0 && unsupported.has('categories'))
    lost.push(`Its categories: ${item.categories.join(', ')}.`)
  if (item.url && holdsLinks && unsupported.has('url')) lost.push('Its link.')
  if (item.assignees.length > 0 && !isSameAccount)
    lost.push('Whom it is given to: each service has accounts of its own.')
  return lost
}

export async function moveOutlook(
  ctx: Context,
  member: Member,
  key: string,
  to: string,
): Promise<{ ok: true; outlook: MoveOutlook } | { ok: false; reason: string }> {
  return ctx.db.commit(async sql => {
    const judged = await judge(sql, member, key, to)
    return judged.ok ? { ok: true, outlook: judged.outlook } : judged
  })
}

export async function moveItem(
  ctx: Context,
  member: Member,
  key: string,
  to: string,
): Promise<
  { ok: true; connectionId: string; intent: string; outlook: MoveOutlook } | { ok: false; reason: string }
> {
  const answer = await ctx.db.commit(async sql => {
    const judged = await judge(sql, member, key, to)
    if (!judged.ok) return judged
    const { row, target, outlook } = judged
    await staysBehind(sql, [row.id])
    const intent = await queueCopy(sql, {
      workspaceId: member.workspaceId,
      memberId: member.id,
      root: row.id,
      parentFrom: null,
      parent: null,
      row,
      target: { collectionId: target.id, connectionId: target.connection_id },
    })
    sql.tell(member.workspaceId, {
      topics: ['cloth'],
      exact: true,
      lists: [row.collection_id, target.id],
    })
    return { ok: true as const, connectionId: target.connection_id, intent, outlook }
  })
  return answer
}

/** `uid`: what `moveItem` gave for its intent. Null while it is on its way. */
export async function takeBackMove(ctx: Context, member: Member, uid: string): Promise<TakenBack> {
  const { workspaceId, id: memberId } = member
  const refused = (status: 404 | 409, reason: string): TakenBack => ({ ok: false, status, reason })
  const notSent = await ctx.db.commit(async sql => {
    const dropped = await dropUnsentOf(sql, { workspaceId, memberId, uid })
    if (dropped === 0) return false
    await moveFails(sql, uid)
    sql.tell(workspaceId, { topics: ['cloth'], exact: true })
    return true
  })
  if (notSent) return { ok: true, inverse: null, connectionId: null }
  const copy = await stateOfMove(ctx.db, { workspaceId, memberId, uid })
  if (copy?.state === 'open' || copy?.state === 'waiting') return null
  if (!copy?.id || !copy.home) return refused(404, 'It has not been moved.')
  const { id, home } = copy
  const half = await anyMoveInRoot(ctx.db, { uid })
  if (half) return null
  if (copy.stayed)
    return refused(409, 'It was changed meanwhile where it was, and stayed there: there are two of it.')
  const back = await moveItem(ctx, member, id, home)
  return back.ok ? { ok: true, inverse: null, connectionId: back.connectionId } : refused(409, back.reason)
}
