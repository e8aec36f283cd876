import { randomUUID } from 'node:crypto'
import { addDays, type ClothItem, dayAt, type Edit, MINUTE, zonedAt } from '@loom/core'
import {
  confirmedOf,
  KEPT_UP_DAYS,
  type KeepUp,
  keepUp,
  type Kept,
  type LaidPiece,
  type Stretch,
  openWaits,
} from '@loom/core/planning'
import { withTravel } from '@loom/core/view'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { harmInWords, harmsOnlyItself } from '../data/harm.ts'
import { json, parsed } from '../data/json.ts'
import {
  addPass,
  claimKeepingUp,
  laidFrom,
  membersKeepingUp,
  putLaid,
  type Pass,
} from '../data/repositories/kept-up.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { clockOf } from '../data/repositories/time-entries.ts'
import { changeSeqOf } from '../data/repositories/workspaces.ts'
import { type Act, type EditAnswer, editItem } from '../view/edit.ts'
import { clothSeenBy } from '../view/own-cloth.ts'
import { drawn, loadPairs } from '../view/pairs.ts'
import { peopleOf } from '../view/people.ts'
import { waitsOf } from '../view/waits.ts'
import { answersTo } from './attended.ts'
import { planningFor } from './planning.ts'

/**
 * Keeps up the work windows of those who want it. It waits until what is read has come to rest, does what the planner
 * says in one pass, and leaves off at the first write that is refused.
 */

const LOOK_MS = 5_000
/** With a clock running, time alone may be a cause. */
const CLOCK_LOOK_MS = 60_000
/** A workspace in which something changes all the time is not waited for any longer. */
const MOST_UNREST_MS = 60_000
/** Another server may have just looked. */
const APART_MS = 3_000

interface Looked {
  seq: number
  since: number
  /** The change that was looked at last, and when. */
  done: number
  doneAt: number
}

export class KeepingUp {
  private readonly looked = new Map<string, Looked>()

  constructor(
    private readonly ctx: Context,
    /** What was written is to be sent now. */
    private readonly written: (workspaceId: string, connections: readonly string[]) => void,
  ) {}

  start(): void {
    this.stop = this.ctx.background.every('keep work windows up', LOOK_MS, () => this.look())
  }
  /** From then on only who asks for it looks. */
  stop: () => void = () => undefined

  /** @param atOnce without waiting for rest; returns how many pieces were moved */
  async look(atOnce = false): Promise<number> {
    const { ctx } = this
    const all = await membersKeepingUp(ctx.db, { now: ctx.now() })
    const here = new Set(all.map(m => m.member))
    for (const id of this.looked.keys()) if (!here.has(id)) this.looked.delete(id)
    let count = 0
    for (const { member, workspace, seq, isClockOn } of all) {
      if (!atOnce && !this.isDue(member, Number(seq), Number(isClockOn) > 0)) continue
      try {
        const team = await teamOfWorkspace(ctx.db, { workspaceId: workspace })
        const found = team.find(m => m.id === member)
        const wall = Date.now()
        const claim = { memberId: member, wall, before: atOnce ? wall : wall - APART_MS }
        if (!found || !(await claimKeepingUp(ctx.db, claim))) continue
        count += await this.keepUpOf({ ...found, workspaceId: workspace, userId: '' })
      } catch (error) {
        // One person's that cannot be kept up keeps nobody else's.
        ctx.log.error({ err: error, memberId: member }, 'a work window could not be kept up')
      }
    }
    return count
  }

  private isDue(member: string, seq: number, isClockOn: boolean): boolean {
    const wall = Date.now()
    const last = this.looked.get(member)
    if (!last) {
      this.looked.set(member, { seq, since: wall, done: -1, doneAt: 0 })
      return false
    }
    const isQuiet = last.seq === seq || wall - last.since > MOST_UNREST_MS
    if (last.seq !== seq) last.seq = seq
    if (seq === last.done) last.since = wall
    const isNews = seq !== last.done || (isClockOn && wall - last.doneAt > CLOCK_LOOK_MS)
    if (!isQuiet || !isNews) return false
    Object.assign(last, { done: seq, doneAt: wall, since: wall })
    return true
  }

  private async keepUpOf(member: Member): Promise<number> {
    const { ctx } = this
    const { asked, seq } = await ctx.db.snapshot(async sql => ({
      asked: await askedFor(ctx, sql, member),
      seq: await changeSeqOf(sql, { id: member.workspaceId }),
    }))
    if (!asked || asked.laid.length === 0 || !asked.windows.some(w => w.keepsUp)) return 0
    const confirmed = new Map(confirmedOf(asked).map(p => [p.id, p]))
    if (confirmed.size > 0)
      await ctx.db.commit(async sql => {
        for (const piece of confirmed.values()) await putLaid(sql, piece)
      })
    const kept = keepUp({ ...asked, laid: asked.laid.map(p => confirmed.get(p.id) ?? p) })
    if (kept.moves.length + kept.asks.length === 0) return 0
    // Whatever was changed since is looked at first.
    const now = await changeSeqOf(ctx.db, { id: member.workspaceId })
    if (now?.change_seq !== seq?.change_seq) {
      const last = this.looked.get(member.id)
      if (last) last.done = -1
      return 0
    }
    return this.write(member, asked.items, kept)
  }

  /** What goes wrong with one piece is told like a refusal: what was moved before it is kept, and can be put back. */
  private async editAlone(member: Member, key: string, edit: Edit, act: Act): Promise<EditAnswer> {
    const { ctx } = this
    try {
      return await editItem(ctx, member, key, edit, null, act)
    } catch (error) {
      if (!harmsOnlyItself(error)) throw error
      ctx.log.error({ err: error, memberId: member.id }, 'a piece could not be kept up')
      return { ok: false, status: 409, reason: harmInWords(error) }
    }
  }

  private async write(member: Member, items: readonly ClothItem[], kept: Kept): Promise<number> {
    const { ctx } = this
    const id = randomUUID()
    const titles = new Map(items.map(i => [i.key, i.title]))
    const titleOf = (piece: LaidPiece): string => titles.get(piece.task) ?? titles.get(piece.key) ?? ''
    const pass: Pass = { steps: [], asks: [], refused: null }
    const touched = new Set<string>()
    // What makes room goes first.
    const wanted = [...kept.moves].sort((x, y) => Number(x.cause !== null) - Number(y.cause !== null))
    for (const { piece, from, to, cause } of wanted) {
      const edit = placedAt(piece, from, to, member.zone)
      const act = { passId: id, cause: `kept-up-${cause?.kind ?? 'gave-way'}` }
      const answer = await this.editAlone(member, piece.key, edit, act)
      const title = titleOf(piece)
      if (!answer.ok) {
        pass.refused = { title, reason: answer.reason }
        // It is not tried again for the same cause.
        const heldFor = cause ?? kept.moves.find(m => m.cause !== null)?.cause ?? null
        await ctx.db.commit(sql => putLaid(sql, { ...piece, heldFor }))
        break
      }
      if (answer.connectionId) touched.add(answer.connectionId)
      pass.steps.push({ piece: piece.id, key: piece.key, title, from, to, cause })
      const moves = [...piece.moves.slice(-9), { atMs: ctx.now(), fromMs: from.fromMs }]
      await ctx.db.commit(sql => putLaid(sql, { ...piece, before: from, wrote: to, base: null, moves }))
    }
    for (const { piece, cause, because } of kept.asks) {
      pass.asks.push({ key: piece.key, title: titleOf(piece), at: piece.base ?? piece.wrote, cause, because })
      await ctx.db.commit(sql => putLaid(sql, { ...piece, heldFor: cause }))
    }
    await ctx.db.commit(async sql => {
      const { id: memberId, workspaceId } = member
      await addPass(sql, { id, workspaceId, memberId, at: ctx.now(), body: json(pass) })
      sql.tell(workspaceId, { topics: ['cloth'], exact: true, lists: [] })
    })
    this.written(member.workspaceId, [...touched])
    return pass.steps.length
  }
}

/** A piece keeps its length; a task's own plan has none that would be ours to write. */
export function placedAt(
  piece: Pick<LaidPiece, 'key' | 'task'>,
  from: Stretch,
  to: Stretch,
  zone: string,
): Edit {
  const start = zonedAt(to.fromMs, zone)
  return piece.key === piece.task
    ? { do: 'place', start }
    : { do: 'place', start, minutes: Math.round((from.toMs - from.fromMs) / MINUTE) }
}

/** What it has to be decided by, as that person sees it; null where they are no member any more. */
export async function askedFor(ctx: Context, sql: Sql, member: Member): Promise<KeepUp | null> {
  const { workspaceId, zone } = member
  const now = ctx.now()
  const { planning } = await planningFor(sql, member)
  const laid = await laidFrom(sql, { memberId: member.id, from: now })
  const { people } = await peopleOf(sql, workspaceId)
  const hours = people.find(p => p.id === member.id)?.hours
  if (!hours) return null
  const span = { from: addDays(dayAt(now, zone), -1), days: KEPT_UP_DAYS + 2 }
  const { items: shown, reading, viewer } = await clothSeenBy(sql, member, span, now)
  const sourceOf = (item: ClothItem) => reading.read.get(item.key.split('@')[0] ?? item.key)
  // What is done and was planned for no day is not on the Cloth.
  const there = new Set(shown.map(i => i.key))
  const { pairs } = await loadPairs(sql, member, [
    ...new Set(laid.flatMap(p => (there.has(p.task) ? [] : [p.task]))),
  ])
  const beside = pairs.flatMap(p => {
    const item = drawn(p, viewer)
    return item && !there.has(item.key) ? [item] : []
  })
  const clock = await clockOf(sql, { memberId: member.id })
  const waits = await waitsOf(sql, member, now)
  return {
    items: withTravel([...shown, ...beside], planning.travel, member.id),
    person: { id: member.id, zone, now },
    hours,
    windows: planning.windows,
    breaks: planning.sentence.breaks,
    waits: openWaits(waits),
    laid,
    unsure: await unsureOf(sql, member, shown, laid, sourceOf),
    running: clock?.clock_about ? parsed(clock.clock_about).key : null,
  }
}

/** Of the events that lie on something laid, those that may not take place for that person. */
async function unsureOf(
  sql: Sql,
  { email }: Member,
  items: readonly ClothItem[],
  laid: readonly LaidPiece[],
  sourceOf: (item: ClothItem) => { id: string; item: { kind: string } } | undefined,
): Promise<Set<string>> {
  const over = items.filter(
    ({ kind, place }) =>
      kind === 'event' &&
      place.kind === 'timed' &&
      laid.some(({ base, wrote }) => {
        const at = base ?? wrote
        return place.startMs < at.toMs && at.fromMs < place.endMs
      }),
  )
  const sources = over.flatMap(item => {
    const source = sourceOf(item)
    return source ? [{ item, source }] : []
  })
  const answers = await answersTo(
    sql,
    sources.map(s => s.source.id),
  )
  return new Set(
    sources.flatMap(({ item, source }) => {
      const event = source.item as { status?: string }
      const answer = answers.get(source.id)?.get(email.toLowerCase())
      const isSure = event.status !== 'tentative' && (answer === undefined || answer === 'accepted')
      return isSure ? [] : [item.key]
    }),
  )
}
