import { randomUUID } from 'node:crypto'
import { type Item, type ItemSource, privacyOf, reaches } from '@loom/core'
import { PRIVACIES } from '../access/rights.ts'
import { type Asker, type Sharing, sharingOf, type Sight } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { containing } from '../data/like.ts'
import {
  addComment,
  changeComment,
  commentAt,
  type CommentLine,
  type CommentRow,
  commentsOn,
  commentsSeen,
  dropComment,
  markRead,
  namedIn,
} from '../data/repositories/comments.ts'
import { loadPairs, pairOf } from '../view/pairs.ts'
import { loadSources } from '../view/sources.ts'
import { peopleIn, type PersonOf } from './share.ts'

/** What members say about items: kept here, belonging to one half of a pair, for those who see all of that half. */

type Commenter = Asker & { workspaceId: string }

export interface CommentView {
  id: string
  at: number
  changedAt: number | null
  who: string
  text: string
  /** Names in it that stand for members: as they are written after the @. */
  named: string[]
  isMine: boolean
  mayRemove: boolean
}

export type Commented = { ok: true; id: string } | { ok: false; status: 404 | 422; reason: string }

const GONE = { ok: false as const, status: 404 as const, reason: 'It is no longer there.' }
const PAGE = 100

/** The numbers of PRIVACIES. */
const numberOf = (source: ItemSource<Item>): number => PRIVACIES.indexOf(privacyOf(source))

/** What is said of an item is as private as the item was then and is now; whom it is given to sees it all. */
function isHeard(sight: Sight, source: ItemSource<Item>, { privacy }: Pick<CommentRow, 'privacy'>): boolean {
  return [privacyOf(source), PRIVACIES[privacy]].every(p => reaches(sight.levelOf(source, p), 'everything'))
}

/** Its halves as they are, the task first. */
async function halvesOf(sql: Sql, member: Commenter, key: string): Promise<ItemSource<Item>[]> {
  const id = key.split('@')[0] ?? key
  const { pairs } = await loadPairs(sql, member, [id])
  const pair = pairOf(pairs, id)
  if (!pair) return []
  const ids = [pair.task, pair.event, ...pair.twins].flatMap(h => (h ? [h.id] : []))
  const sources = await loadSources(sql, member.workspaceId, ids)
  return ids.flatMap(i => sources.get(i) ?? [])
}

/** Of a date of a series, the series: what is said of it is said of all. */
const aboutId = (half: ItemSource<Item>): string => half.dateOf?.seriesId ?? half.id

const whole = (sight: Sight, half: ItemSource<Item>): boolean => reaches(sight.levelOf(half), 'everything')

/** Those who would read it. */
const readersOf = (sharing: Sharing, people: readonly PersonOf[], half: ItemSource<Item>): PersonOf[] =>
  people.filter(p => whole(sharing.sightOf(p), half))

const saysName = (text: string, { name }: { name: string }): boolean =>
  text.toLowerCase().includes(`@${name.toLowerCase()}`)

/** Whom a text names, or the reason why it may not. Of two names that begin alike the longer one is meant. */
function namedBy(
  text: string,
  people: readonly PersonOf[],
  readers: readonly PersonOf[],
): { named: PersonOf[] } | { reason: string } {
  const longest = [...people].sort((a, b) => b.name.length - a.name.length)
  let rest = text
  const named: PersonOf[] = []
  for (const person of longest) {
    if (!saysName(rest, person)) continue
    named.push(person)
    rest = rest.toLowerCase().replaceAll(`@${person.name.toLowerCase()}`, '')
  }
  const blind = named.find(p => !readers.some(r => r.id === p.id))
  return blind
    ? { reason: `${blind.name} does not see all of this. Share it with them first, or leave the name out.` }
    : { named }
}

export async function commentsOf(
  ctx: Context,
  member: Commenter,
  key: string,
): Promise<{ comments: CommentView[]; mayName: { id: string; name: string }[] } | null> {
  const found = await ctx.db.snapshot(async sql => {
    const halves = await halvesOf(sql, member, key)
    const sharing = await sharingOf(sql, member.workspaceId)
    const sight = sharing.sightOf(member)
    const about = halves.find(h => whole(sight, h))
    if (!about) return null
    const people = await peopleIn(sql, member.workspaceId)
    const rows = (
      await commentsOn(sql, { workspaceId: member.workspaceId, ids: halves.map(aboutId) })
    ).filter(row => halves.some(h => aboutId(h) === row.mirror_id && isHeard(sight, h, row)))
    const named = await namedIn(sql, { ids: rows.map(r => r.id) })
    const nameOf = (id: string): string[] => people.flatMap(p => (p.id === id ? [p.name] : []))
    return {
      ids: rows.map(r => r.id),
      hasUnread: named.some(n => n.member_id === member.id),
      comments: rows.map(r => ({
        id: r.id,
        at: r.made_at,
        changedAt: r.changed_at,
        who: r.who,
        text: r.body,
        named: named.flatMap(n => (n.comment_id === r.id ? nameOf(n.member_id) : [])),
        isMine: r.made_by === member.id,
        mayRemove: r.made_by === member.id || sight.tends(r.collection_id),
      })),
      mayName: readersOf(sharing, people, about).flatMap(p =>
        p.id === member.id ? [] : [{ id: p.id, name: p.name }],
      ),
    }
  })
  if (!found) return null
  const { ids, hasUnread, ...told } = found
  if (hasUnread) await markRead(ctx.db, { memberId: member.id, ids, now: ctx.now() })
  return told
}

export async function sayAbout(
  ctx: Context,
  member: Commenter,
  key: string,
  text: string,
): Promise<Commented> {
  const { workspaceId } = member
  return ctx.db.commit(async (sql): Promise<Commented> => {
    const sharing = await sharingOf(sql, workspaceId)
    const sight = sharing.sightOf(member)
    const half = (await halvesOf(sql, member, key)).find(h => whole(sight, h))
    if (!half) return GONE
    const people = await peopleIn(sql, workspaceId)
    const names = namedBy(text, people, readersOf(sharing, people, half))
    if ('reason' in names) return { ok: false, status: 422, reason: names.reason }
    const id = randomUUID()
    await addComment(sql, {
      id,
      workspaceId,
      collectionId: half.collectionId,
      mirrorId: aboutId(half),
      madeBy: member.id,
      at: ctx.now(),
      privacy: numberOf(half),
      body: text,
      named: names.named.flatMap(p => (p.id === member.id ? [] : [p.id])),
    })
    sql.tell(workspaceId, { topics: ['journal'], lists: [half.collectionId] })
    return { ok: true, id }
  })
}

/** A comment that somebody hears, with its item. */
async function heard(
  sql: Sql,
  who: Commenter,
  id: string,
): Promise<{ row: CommentRow; half: ItemSource<Item>; sharing: Sharing } | null> {
  const row = await commentAt(sql, { workspaceId: who.workspaceId, id })
  if (!row) return null
  const half = (await loadSources(sql, who.workspaceId, [row.mirror_id])).get(row.mirror_id)
  const sharing = await sharingOf(sql, who.workspaceId)
  return half && isHeard(sharing.sightOf(who), half, row) ? { row, half, sharing } : null
}

export async function sayOtherwise(
  ctx: Context,
  member: Commenter,
  id: string,
  text: string,
): Promise<Commented> {
  const { workspaceId } = member
  return ctx.db.commit(async (sql): Promise<Commented> => {
    const found = await heard(sql, member, id)
    if (!found || found.row.made_by !== member.id) return GONE
    const people = await peopleIn(sql, workspaceId)
    const names = namedBy(text, people, readersOf(found.sharing, people, found.half))
    if ('reason' in names) return { ok: false, status: 422, reason: names.reason }
    const named = names.named.flatMap(p => (p.id === member.id ? [] : [p.id]))
    await changeComment(sql, { id, workspaceId, at: ctx.now(), body: text, named })
    sql.tell(workspaceId, { topics: ['journal'], lists: [found.row.collection_id] })
    return { ok: true, id }
  })
}

export async function takeCommentBack(ctx: Context, member: Commenter, id: string): Promise<boolean> {
  return ctx.db.commit(async sql => {
    const found = await heard(sql, member, id)
    if (!found) return false
    const { row, sharing } = found
    if (row.made_by !== member.id && !sharing.sightOf(member).tends(row.collection_id)) return false
    sql.tell(member.workspaceId, { topics: ['journal'], lists: [row.collection_id] })
    return (await dropComment(sql, { id })) > 0
  })
}

/** What was said of all that somebody sees whole, newest first. What is only given to them is told in its drawer. */
export async function saidLately(
  sql: Sql,
  member: Commenter,
  q: string,
  before: number | null,
): Promise<{ lines: Omit<CommentLine, 'privacy' | 'collection_id' | 'made_by'>[]; more: boolean }> {
  const sharing = await sharingOf(sql, member.workspaceId)
  const rows = await commentsSeen(sql, {
    workspaceId: member.workspaceId,
    seen: sharing.sightOf(member).wholeLists(),
    words: q.trim() ? containing(q.trim()) : null,
    before,
    most: PAGE + 1,
  })
  return {
    lines: rows.slice(0, PAGE).map(({ privacy: _, collection_id: _c, made_by: _m, ...line }) => line),
    more: rows.length > PAGE,
  }
}

/** Of comments by id, those that somebody hears, with the titles of their items. */
export async function stillHeard(
  sql: Sql,
  who: Asker & { workspaceId: string },
  rows: readonly CommentRow[],
): Promise<{ row: CommentRow; title: string }[]> {
  const sources = await loadSources(sql, who.workspaceId, [...new Set(rows.map(r => r.mirror_id))])
  const sight = (await sharingOf(sql, who.workspaceId)).sightOf(who)
  return rows.flatMap(row => {
    const half = sources.get(row.mirror_id)
    return half && isHeard(sight, half, row) ? [{ row, title: half.item.summary || 'Untitled' }] : []
  })
}
