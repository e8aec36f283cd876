import { randomUUID } from 'node:crypto'
import { dayAt, daysBetween, type Edit, settingsOfPerson, type Making, zonedAt } from '@loom/core'
import { dueOf, takenOf } from '@loom/core/planning'
import type { ClothItem } from '@loom/core'
import type { Context } from '../context/context.ts'
import { harmInWords, harmsOnlyItself } from '../data/harm.ts'
import { parsed } from '../data/json.ts'
import { lay } from '../data/repositories/kept-up.ts'
import { settingsOfMember } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { editItem } from '../view/edit.ts'
import { makeItem } from '../view/make.ts'
import { clothSeenBy } from '../view/own-cloth.ts'
import { peopleOf } from '../view/people.ts'

/**
 * A draft becomes real: each piece by itself, so that one that is refused keeps nothing else from being kept. All are
 * of one pass in the journal. Neither a deadline nor an estimate is written.
 */

export type DraftedPiece = {
  fromMs: number
  toMs: number
  /** Put there by hand: it may stand beside something else. */
  pinned: boolean
} & (
  | { what: 'plan'; task: string }
  | { what: 'block'; task: string }
  /** A regular, by its name. */
  | { what: 'regular'; title: string; isBreak: boolean }
  /** A block that is there, or a task's own plan. */
  | { what: 'move' | 'remove'; key: string; plan: boolean }
)

export type Applied =
  { ok: true; back: { intent: string } | { key: string; edit: Edit } | null } | { ok: false; reason: string }

export interface AppliedDraft {
  pass: string
  /** One for each piece, in the order given. */
  pieces: Applied[]
  connections: string[]
}

export async function applyDraft(
  ctx: Context,
  member: Member,
  pieces: readonly DraftedPiece[],
): Promise<AppliedDraft> {
  const pass = randomUUID()
  const there = await itemsAround(ctx, member, pieces)
  const person = { id: member.id, zone: member.zone, now: ctx.now() }
  const goes = new Set(pieces.flatMap(p => ('key' in p ? [p.key] : [])))
  const taken = there.filter(i => takenOf([i], person, goes).length > 0)
  const connections = new Set<string>()
  const applied: Applied[] = []
  const lays = await layer(ctx, member, there)
  for (const piece of pieces) {
    const isFree = piece.pinned || piece.what === 'remove'
    const other = isFree ? undefined : taken.find(i => overlaps(i, piece))
    if (piece.toMs <= ctx.now()) applied.push({ ok: false, reason: 'Its time is past.' })
    else if (other) applied.push({ ok: false, reason: `${other.title} stands there now.` })
    else applied.push(await applyAlone(ctx, member, piece, pass, id => connections.add(id), lays))
  }
  return { pass, pieces: applied, connections: [...connections] }
}

const overlaps = ({ place }: ClothItem, { fromMs, toMs }: DraftedPiece): boolean =>
  place.kind === 'timed' && place.startMs < toMs && fromMs < place.endMs

/** What goes wrong with one piece keeps no other from being applied. */
async function applyAlone(...of: Parameters<typeof applyOne>): Promise<Applied> {
  const [ctx] = of
  try {
    return await applyOne(...of)
  } catch (error) {
    if (!harmsOnlyItself(error)) throw error
    ctx.log.error({ err: error }, 'a piece of a draft could not be applied')
    return { ok: false, reason: harmInWords(error) }
  }
}

async function applyOne(
  ctx: Context,
  member: Member,
  piece: DraftedPiece,
  pass: string,
  touched: (connectionId: string) => void,
  lays: Lays,
): Promise<Applied> {
  const act = actOf(piece, member.zone, await keptBy(ctx, member))
  if ('edit' in act) {
    const answer = await editItem(ctx, member, act.key, act.edit, null, { passId: pass })
    if (!answer.ok) return { ok: false, reason: answer.reason }
    if (answer.connectionId) touched(answer.connectionId)
    if (piece.what === 'plan' || piece.what === 'move')
      await lays(piece, { key: act.key, tie: null }, piece.what === 'plan' || piece.plan ? act.key : null)
    return { ok: true, back: answer.inverse && { key: act.key, edit: answer.inverse } }
  }
  const made = await makeItem(ctx, member, act.making, pass)
  if (!made.ok) return { ok: false, reason: made.reason }
  touched(made.connectionId)
  if (piece.what === 'block') await lays(piece, { key: null, tie: made.ties[0] ?? null }, piece.task)
  return { ok: true, back: { intent: made.intent } }
}

type Lays = (
  piece: DraftedPiece,
  at: { key: string; tie: null } | { key: null; tie: string | null },
  task: string | null,
) => Promise<void>

/** Notes what the planner put where it is: what a person pinned there is theirs. */
async function layer(ctx: Context, member: Member, there: readonly ClothItem[]): Promise<Lays> {
  const { id: memberId, workspaceId, zone } = member
  const known = new Map(there.map(i => [i.key, i]))
  const { people } = await peopleOf(ctx.db, workspaceId)
  const hours = people.find(p => p.id === memberId)?.hours
  const person = { id: memberId, zone, now: ctx.now() }
  return async ({ pinned, fromMs, toMs }, { key, tie }, of) => {
    const moved = key === null ? undefined : known.get(key)
    const task = of ?? moved?.of ?? null
    if (pinned || task === null || !hours || (key === null && tie === null)) return
    const item = known.get(task)
    const before =
      moved?.place.kind === 'timed' ? { fromMs: moved.place.startMs, toMs: moved.place.endMs } : null
    const due = item ? dueOf({ hours, person }, item) : null
    const piece = {
      workspaceId,
      memberId,
      mirrorId: key,
      tieId: tie,
      task,
      wrote: { fromMs, toMs },
      before,
      due,
    }
    await ctx.db.commit(sql => lay(sql, { id: randomUUID(), ...piece }))
  }
}

/** Where this person keeps their time, and what others see of it there. */
async function keptBy(ctx: Context, { id }: Member): Promise<Kept> {
  const row = await settingsOfMember(ctx.db, { id })
  const { blocksInto: into, blocksBusy, blocksNamed } = settingsOfPerson(row ? parsed(row.settings) : {})
  if (into === null) return { into, said: {} }
  const transparency = blocksBusy ? 'opaque' : 'transparent'
  return { into, said: { transparency, class: blocksNamed ? 'public' : 'private' } }
}
type Kept = Pick<Making, 'into' | 'said'>

/** What is done to something that is there, or made. A task's own plan keeps its length. */
function actOf(
  piece: DraftedPiece,
  zone: string,
  kept: Kept,
): { key: string; edit: Edit } | { making: Making } {
  const start = zonedAt(piece.fromMs, zone)
  const minutes = Math.round((piece.toMs - piece.fromMs) / 60_000)
  switch (piece.what) {
    case 'plan':
      return { key: piece.task, edit: { do: 'place', start } }
    case 'move':
      return { key: piece.key, edit: { do: 'place', start, ...(!piece.plan && { minutes }) } }
    case 'remove':
      return { key: piece.key, edit: piece.plan ? { do: 'unplace' } : { do: 'delete' } }
    case 'block':
      return { making: { what: 'block', task: piece.task, title: null, start, minutes, ...kept } }
    case 'regular':
      return {
        making: {
          what: 'event',
          title: piece.title,
          kind: piece.isBreak ? 'break' : 'other',
          guests: [],
          repeats: null,
          start,
          minutes,
          ...kept,
        },
      }
  }
}

/** What stands on these days, as the person sees it now. */
async function itemsAround(
  ctx: Context,
  member: Member,
  pieces: readonly DraftedPiece[],
): Promise<ClothItem[]> {
  const { zone } = member
  const dates = pieces.flatMap(p => [dayAt(p.fromMs, zone), dayAt(p.toMs, zone)]).sort()
  const [from, last] = [dates[0], dates.at(-1)]
  if (from === undefined || last === undefined) return []
  const span = { from, days: daysBetween(from, last) + 1 }
  // In a commit, so that a request that comes a second time ends here, and is not judged by what it did itself.
  return ctx.db.commit(async sql => (await clothSeenBy(sql, member, span, ctx.now())).items)
}
