import { randomUUID } from 'node:crypto'
import { dayAt, daysBetween, type Edit, settingsOfPerson, zonedAt } from '@loom/core'
import { takenOf } from '@loom/core/planning'
import type { ClothItem } from '@loom/core'
import { sightIn } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { settingsOfMember } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { clothOf, DEFAULT_MINUTES, readCloth } from '../view/cloth.ts'
import { editItem } from '../view/edit.ts'
import { makeItem } from '../view/make.ts'

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
  | { what: 'regular'; title: string }
)

export type Applied =
  | { ok: true; title: string; back: { intent: string } | { key: string; edit: Edit } | null }
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
  const taken = there.filter(
    i => takenOf([i], { id: member.id, zone: member.zone, now: ctx.now() }).length > 0,
  )
  const connections = new Set<string>()
  const applied: Applied[] = []
  for (const piece of pieces) {
    const other = piece.pinned ? undefined : taken.find(i => overlaps(i, piece))
    if (piece.toMs <= ctx.now()) applied.push({ ok: false, reason: 'Its time is past.' })
    else if (other) applied.push({ ok: false, reason: `${other.title} stands there now.` })
    else applied.push(await applyOne(ctx, member, piece, pass, id => connections.add(id)))
  }
  return { pass, pieces: applied, connections: [...connections] }
}

const overlaps = ({ place }: ClothItem, { fromMs, toMs }: DraftedPiece): boolean =>
  place.kind === 'timed' && place.startMs < toMs && fromMs < place.endMs

async function applyOne(
  ctx: Context,
  member: Member,
  piece: DraftedPiece,
  pass: string,
  touched: (connectionId: string) => void,
): Promise<Applied> {
  const start = zonedAt(piece.fromMs, member.zone)
  const minutes = Math.round((piece.toMs - piece.fromMs) / 60_000)
  if (piece.what === 'plan') {
    const answer = await editItem(ctx, member, piece.task, { do: 'place', start }, null, pass)
    if (!answer.ok) return { ok: false, reason: answer.reason }
    if (answer.connectionId) touched(answer.connectionId)
    const back = answer.inverse && { key: piece.task, edit: answer.inverse }
    return { ok: true, title: '', back }
  }
  const row = await settingsOfMember(ctx.db, { id: member.id })
  const { blocksInto: into, blocksBusy, blocksNamed } = settingsOfPerson(row ? parsed(row.settings) : {})
  const said = {
    transparency: blocksBusy ? ('opaque' as const) : ('transparent' as const),
    class: blocksNamed ? ('public' as const) : ('private' as const),
  }
  const seen = { into, said: into === null ? {} : said }
  const made = await makeItem(
    ctx,
    member,
    piece.what === 'block'
      ? { what: 'block', task: piece.task, title: null, start, minutes, ...seen }
      : {
          what: 'event',
          title: piece.title,
          kind: 'other',
          guests: [],
          repeats: null,
          start,
          minutes,
          ...seen,
        },
    pass,
  )
  if (!made.ok) return { ok: false, reason: made.reason }
  touched(made.connectionId)
  return { ok: true, title: piece.what === 'regular' ? piece.title : '', back: { intent: made.intent } }
}

/** What stands on these days, as the person sees it now. */
async function itemsAround(
  ctx: Context,
  member: Member,
  pieces: readonly DraftedPiece[],
): Promise<ClothItem[]> {
  const { workspaceId, zone } = member
  const dates = pieces.flatMap(p => [dayAt(p.fromMs, zone), dayAt(p.toMs, zone)]).sort()
  const [from, last] = [dates[0], dates.at(-1)]
  if (from === undefined || last === undefined) return []
  const span = { from, days: daysBetween(from, last) + 1 }
  const viewer = { zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
  // In a commit, so that a request that comes a second time ends here, and is not judged by what it did itself.
  return ctx.db.commit(async sql => {
    const reading = await readCloth(sql, { workspaceId, ...span }, viewer, null)
    return clothOf(reading, await sightIn(sql, member), span, viewer, () => zone)
  })
}
