import { randomUUID } from 'node:crypto'
import { dayAt, daysBetween, type Edit, type Making, ONLY_LOOK, settingsOfPerson, zonedAt } from '@loom/core'
import { dueOf, takenOf } from '@loom/core/planning'
import type { ClothItem } from '@loom/core'
import type { Context } from '../context/context.ts'
import { harmInWords, harmsOnlyItself } from '../data/harm.ts'
import { parsed } from '../data/json.ts'
import { lay } from '../data/repositories/kept-up.ts'
import { settingsOfMember } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { askForTime, type TimeToAsk } from './ask-for-time.ts'
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
} &
  /** `person`: whose time it is. What one may not write oneself is asked of them. */
  (
    | { what: 'plan'; task: string; person: string }
    | { what: 'block'; task: string; person: string }
    /** A regular, by its name. */
    | { what: 'regular'; title: string; isBreak: boolean }
    /** A block that is there, or a task's own plan. */
    | { what: 'move' | 'remove'; key: string; plan: boolean }
  )

export type Applied =
  | { ok: true; back: { intent: string } | { key: string; edit: Edit } | { request: string } | null }
  | { ok: false; reason: string }

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
  const { people } = await peopleOf(ctx.db, member.workspaceId)
  const goes = new Set(pieces.flatMap(p => ('key' in p ? [p.key] : [])))
  const zoneOf = (id: string): string => people.find(p => p.id === id)?.zone ?? member.zone
  const takenBy = new Map(
    [...new Set(pieces.map(p => whoseOf(p, member)))].map(id => {
      const person = { id, zone: zoneOf(id), now: ctx.now() }
      return [id, there.filter(i => takenOf([i], person, goes).length > 0)] as const
    }),
  )
  const connections = new Set<string>()
  const touched = (id: string): unknown => connections.add(id)
  const applied: Applied[] = []
  const toAsk: { at: number; time: TimeToAsk }[] = []
  const lays = await layer(ctx, member, there)
  for (const [at, piece] of pieces.entries()) {
    const whose = whoseOf(piece, member)
    const isFree = piece.pinned || piece.what === 'remove'
    const other = isFree ? undefined : takenBy.get(whose)?.find(i => overlaps(i, piece))
    if (piece.toMs <= ctx.now()) applied.push({ ok: false, reason: 'Its time is past.' })
    else if (other) applied.push({ ok: false, reason: `${other.title || 'Something'} stands there now.` })
    else if (whose !== member.id && !people.some(p => p.id === whose))
      applied.push({ ok: false, reason: 'That person is not in this workspace.' })
    else if (whose !== member.id && member.role !== 'coordinator')
      applied.push({ ok: false, reason: 'Only coordinators plan the time of others.' })
    else {
      const time = timeToAsk(piece, member)
      const done: Applied =
        time?.as === 'block'
          ? { ok: false, reason: ONLY_LOOK }
          : await applyAlone(ctx, { ...member, zone: zoneOf(whose) }, piece, pass, touched, lays)
      if (time && !done.ok && done.reason === ONLY_LOOK) toAsk.push({ at, time })
      applied.push(done)
    }
  }
  const asked = await askForTime(
    ctx,
    member,
    toAsk.map(a => a.time),
  )
  for (const [n, { at }] of toAsk.entries()) {
    const answer = asked[n]
    if (answer) applied[at] = answer.ok ? { ok: true, back: { request: answer.request } } : answer
  }
  return { pass, pieces: applied, connections: [...connections] }
}

/** What of a draft is another’s: their calendar is not one’s own to write a block into. */
const whoseOf = (piece: DraftedPiece, member: Member): string =>
  'person' in piece ? piece.person : member.id
function timeToAsk(piece: DraftedPiece, member: Member): TimeToAsk | null {
  if (!('person' in piece) || piece.person === member.id) return null
  const { person, task, what, fromMs, toMs } = piece
  return { person, task, as: what, fromMs, toMs }
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
    // What another planned for somebody is theirs to move.
    if (whoseOf(piece, member) === member.id && (piece.what === 'plan' || piece.what === 'move'))
      await lays(piece, { key: act.key, tie: null }, piece.what === 'plan' || piece.plan ? act.key : null)
    return { ok: true, back: answer.inverse && { key: act.key, edit: answer.inverse } }
  }
  const made = await makeItem(ctx, member, act.making, { passId: pass })
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
