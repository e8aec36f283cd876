import { randomUUID } from 'node:crypto'
import { type Frozen, lapsedBecause, type Level, onlyLooks, reaches, type When } from '@loom/core'
import { type Asker, type Sharing, sharingOf } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import { listsToShare } from '../data/repositories/grants.ts'
import {
  addRequest,
  type Asked,
  type AskedTime,
  countOpenBy,
  type RequestRow,
  requestsSince,
  type RequestState,
} from '../data/repositories/requests.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { DEFAULT_MINUTES } from '../view/cloth.ts'
import { drawn, loadPairs, type Pair, pairOf } from '../view/pairs.ts'
import { seenTitles } from '../view/rights.ts'
import { type CarryView, carryView, MOST_OPEN, TOO_MANY } from './agreement.ts'
import { peopleIn, type PersonOf } from './share.ts'

/** What one may not do oneself is asked of whoever may: to hand a task on, or to see more. */

/** Who asks and is asked. */
export type Reader = Pick<Member, 'id' | 'role' | 'workspaceId' | 'zone'>

export type Asking =
  | { ask: 'give'; key: string; to: string }
  /** Of one list or calendar, or of what a member owns. */
  | { ask: 'see'; list: string; level: Level }
  | { ask: 'see'; person: string; level: Level }
  | { ask: 'time'; person: string; pieces: readonly WantedTime[] }

export type WantedTime = Pick<AskedTime, 'task' | 'as' | 'fromMs' | 'toMs'>
/** More are asked for in several requests. */
export const MOST_TIMES = 60

export type RequestAnswer = { ok: true; id: string } | { ok: false; status: 404 | 409 | 422; reason: string }

/** How long what was answered is still told. */
const TOLD_MS = 30 * 86_400_000

const no = (status: 404 | 409 | 422, reason: string): RequestAnswer => ({ ok: false, status, reason })
const GONE = no(404, 'It is no longer there.')

interface OpenedTask {
  pair: Pair
  frozen: Frozen
}

/** Tasks as a member sees them, by mirror. */
export async function tasksSeen(
  sql: Sql,
  member: Reader,
  ids: readonly string[],
  now: number,
): Promise<(id: string) => OpenedTask | null> {
  if (ids.length === 0) return () => null
  const { pairs } = await loadPairs(sql, member, ids)
  const viewer = { zone: member.zone, defaultMinutes: DEFAULT_MINUTES, now }
  return id => {
    const pair = pairOf(pairs, id)
    const item = pair && drawn(pair, viewer)
    if (!pair?.task || !item) return null
    return { pair, frozen: { title: item.title, due: pair.task.item.due, minutes: item.estimate } }
  }
}
export const mayGive = ({ pair }: OpenedTask): boolean => pair.task !== null && !onlyLooks(pair.task)

/** Lists of a person of which somebody knows, and of which they see less than that. */
const hiddenFrom = (sharing: Sharing, asker: Asker, owner: string, level: Level): string[] => {
  const sight = sharing.sightOf(asker)
  return sight
    .withAtLeast('busy')
    .filter(id => sharing.of(id)?.owner === owner && !reaches(sight.level(id), level))
}

export async function makeRequest(ctx: Context, member: Reader, asking: Asking): Promise<RequestAnswer> {
  const { workspaceId } = member
  return ctx.db.commit(async (sql): Promise<RequestAnswer> => {
    const people = await peopleIn(sql, workspaceId)
    if ((await countOpenBy(sql, { memberId: member.id })) >= MOST_OPEN) return no(422, TOO_MANY)
    const place =
      asking.ask === 'give'
        ? await toGive(sql, member, asking, people)
        : asking.ask === 'see'
          ? await toSee(sql, member, asking)
          : await toGiveTime(sql, member, asking, people)
    if ('ok' in place) return place
    const same = (r: RequestRow): boolean =>
      r.made_by === member.id &&
      r.state === 'open' &&
      r.body === place.body &&
      r.mirror_id === place.mirrorId &&
      r.collection_id === place.collectionId &&
      r.of_member === place.ofMember
    const known = (await requestsSince(sql, { workspaceId, since: ctx.now() })).find(same)
    if (known) return { ok: true, id: known.id }
    const id = randomUUID()
    await addRequest(sql, { id, workspaceId, madeBy: member.id, at: ctx.now(), ...place })
    sql.tell(workspaceId, { topics: ['team'] })
    return { ok: true, id }
  })

  async function toGive(
    sql: Sql,
    who: Reader,
    { key, to }: Extract<Asking, { ask: 'give' }>,
    people: readonly PersonOf[],
  ) {
    const id = key.split('@')[0] ?? key
    const task = (await tasksSeen(sql, who, [id], ctx.now()))(id)
    if (!task?.pair.task) return GONE
    if (mayGive(task)) return no(409, 'You may give it to them yourself.')
    if (!people.some(p => p.id === to)) return no(422, 'That person is not in this workspace.')
    const { collectionId, id: mirrorId } = task.pair.task
    const body = json<Asked>({ ask: 'give', to, ...task.frozen })
    return { collectionId, mirrorId, ofMember: null, body }
  }

  async function toGiveTime(
    sql: Sql,
    who: Reader,
    { person, pieces }: Extract<Asking, { ask: 'time' }>,
    people: readonly PersonOf[],
  ) {
    if (!people.some(p => p.id === person)) return no(422, 'That person is not in this workspace.')
    const taskOf = await tasksSeen(sql, who, [...new Set(pieces.map(p => p.task))], ctx.now())
    const asked: AskedTime[] = []
    for (const piece of pieces) {
      const task = taskOf(piece.task)
      if (!task) return GONE
      asked.push({ ...piece, ...task.frozen })
    }
    return {
      collectionId: null,
      mirrorId: null,
      ofMember: person,
      body: json<Asked>({ ask: 'time', pieces: asked }),
    }
  }

  async function toSee(sql: Sql, who: Reader, asking: Extract<Asking, { ask: 'see' }>) {
    const sharing = await sharingOf(sql, workspaceId)
    const sight = sharing.sightOf(who)
    const body = json<Asked>({ ask: 'see', level: asking.level })
    if ('list' in asking) {
      if (!sight.sees(asking.list, 'busy')) return GONE
      if (sight.sees(asking.list, asking.level)) return no(409, 'You see that already.')
      return { collectionId: asking.list, mirrorId: null, ofMember: null, body }
    }
    if (asking.person === who.id) return no(422, 'What is yours you see already.')
    if (hiddenFrom(sharing, who, asking.person, asking.level).length === 0)
      return no(409, 'There is nothing of theirs of which you know and do not see that much.')
    return { collectionId: null, mirrorId: null, ofMember: asking.person, body }
  }
}

/** Time that is asked for, as somebody may see it. */
export interface TimeView {
  key: string
  /** Null for whom it is no longer to be seen. */
  title: string | null
  fromMs: number
  toMs: number
  /** Why it can no longer be given; null while it can. */
  reason: string | null
}

/** Why time that was asked for can no longer be given; null while it can. */
export const lapsedTime = (piece: AskedTime, task: OpenedTask | null, now: number): string | null =>
  piece.fromMs <= now ? 'Its time is past.' : lapsedBecause(piece, task?.frozen ?? null)

/** A request as somebody may see it. */
export interface RequestView {
  id: string
  at: number
  by: { id: string; name: string }
  what:
    | {
        ask: 'give'
        key: string
        /** Null for whom it is no longer to be seen. */
        title: string | null
        due: When | null
        minutes: number | null
        to: { id: string; name: string }
        place: string
      }
    /** `lists` and `items`: what accepting opens, told to whoever may. */
    | { ask: 'see'; level: Level; place: string | null; of: string | null; lists: number; items: number }
    | CarryView
    | { ask: 'time'; of: { id: string; name: string }; pieces: TimeView[] }
  state: RequestState
  /** Why it can no longer be accepted, or what became of it; null where there is nothing to say. */
  reason: string | null
  answeredBy: string | null
  answeredAt: number | null
}

/** Lists that accepting a request to see opens. */
export const opens = (sharing: Sharing, row: RequestRow, asker: Asker, level: Level): string[] =>
  row.collection_id !== null
    ? [row.collection_id]
    : row.of_member !== null
      ? hiddenFrom(sharing, asker, row.of_member, level)
      : []

/** Whether somebody may answer it: they own or look after what it is about. */
export function isFor(sharing: Sharing, member: Reader, row: RequestRow): boolean {
  if (row.made_by === member.id) return false
  if (row.collection_id !== null) return sharing.sightOf(member).tends(row.collection_id)
  // It would be in the calendar of whoever answers.
  if (parsed(row.body).ask === 'time') return row.of_member === member.id
  const { standsFor = [] } = sharing.onlooker(member)
  return row.of_member === member.id || (row.of_member !== null && standsFor.includes(row.of_member))
}

const tasksIn = (row: RequestRow): string[] => {
  const asked = parsed(row.body)
  return asked.ask === 'time' ? asked.pieces.map(p => p.task) : row.mirror_id === null ? [] : [row.mirror_id]
}

export async function requestsOf(
  sql: Sql,
  member: Reader,
  now: number,
): Promise<{ forMe: RequestView[]; mine: RequestView[] }> {
  const { workspaceId } = member
  const rows = await requestsSince(sql, { workspaceId, since: now - TOLD_MS })
  if (rows.length === 0) return { forMe: [], mine: [] }
  const sharing = await sharingOf(sql, workspaceId)
  const people = await peopleIn(sql, workspaceId)
  const person = (id: string) => people.find(p => p.id === id)
  const nameOf = (id: string): string => person(id)?.name ?? 'somebody who has left'
  const mine = rows.filter(r => r.made_by === member.id)
  const forMe = rows.filter(r => r.state === 'open' && person(r.made_by) && isFor(sharing, member, r))
  const ids = [...new Set([...mine, ...forMe].flatMap(tasksIn))]
  const taskOf = await tasksSeen(sql, member, ids, now)
  const seen = new Set(await seenTitles(sql, member, ids))
  const sizes = new Map(
    (await listsToShare(sql, { workspaceId, lists: sharing.sightOf(member).tended() })).map(l => [
      l.id,
      l.items,
    ]),
  )
  const view = async (row: RequestRow): Promise<RequestView> => {
    const asked = parsed(row.body)
    const base = {
      id: row.id,
      at: row.made_at,
      by: { id: row.made_by, name: nameOf(row.made_by) },
      state: row.state,
      answeredBy: row.answered_by === null ? null : nameOf(row.answered_by),
      answeredAt: row.answered_at,
    }
    if (asked.ask === 'carry')
      return { ...base, reason: row.reason, what: await carryView(sql, member, row, asked) }
    if (asked.ask === 'time') {
      const isOpen = row.state === 'open'
      const pieces = asked.pieces.map((p): TimeView => {
        const isSeen = seen.has(p.task)
        const { task: key, fromMs, toMs } = p
        const reason = isOpen && isSeen ? lapsedTime(p, taskOf(key), now) : null
        return { key, title: isSeen ? p.title : null, fromMs, toMs, reason }
      })
      const [first] = pieces
      const isLapsed = first !== undefined && pieces.every(p => p.reason !== null)
      const of = { id: row.of_member ?? '', name: nameOf(row.of_member ?? '') }
      return {
        ...base,
        reason: isOpen ? (isLapsed ? first.reason : null) : row.reason,
        what: { ask: 'time', of, pieces },
      }
    }
    if (asked.ask === 'see') {
      const asker = person(row.made_by)
      const all = asker ? opens(sharing, row, asker, asked.level) : []
      const tended = all.flatMap(id => sizes.get(id) ?? [])
      // Of whose list it is, the name is told to those who know of it.
      const knows = row.collection_id !== null && sharing.sightOf(member).sees(row.collection_id, 'title')
      return {
        ...base,
        reason: row.reason,
        what: {
          ask: 'see',
          level: asked.level,
          place: knows ? row.place : null,
          of: row.of_member === null ? null : nameOf(row.of_member),
          lists: tended.length,
          items: tended.reduce((n, items) => n + items, 0),
        },
      }
    }
    const { to, ...frozen } = asked
    const id = row.mirror_id ?? ''
    const isSeen = seen.has(id)
    return {
      ...base,
      reason:
        row.state === 'open' && row.made_by !== member.id
          ? lapsedBecause(frozen, taskOf(id)?.frozen ?? null)
          : row.reason,
      what: {
        ask: 'give',
        key: id,
        title: isSeen ? frozen.title : null,
        due: isSeen ? frozen.due : null,
        minutes: isSeen ? frozen.minutes : null,
        to: { id: to, name: nameOf(to) },
        place: isSeen ? (row.place ?? '') : '',
      },
    }
  }
  // What was asked of a person whose task they may not see is not theirs to answer.
  const answerable = (r: RequestRow): boolean => r.mirror_id === null || seen.has(r.mirror_id)
  const views = async (all: readonly RequestRow[]): Promise<RequestView[]> => {
    const found: RequestView[] = []
    for (const row of all) found.push(await view(row))
    return found
  }
  return { forMe: await views(forMe.filter(answerable)), mine: await views(mine) }
}

export async function countRequestsFor(sql: Sql, member: Reader, now: number): Promise<number> {
  return (await requestsOf(sql, member, now)).forMe.length
}
