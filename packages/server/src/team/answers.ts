import { lapsedBecause, type Level, LEVEL_WORDS, lower, reaches } from '@loom/core'
import { sharingOf } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import type { Tx } from '../data/database.ts'
import { parsed } from '../data/json.ts'
import {
  type AskedToCarry,
  reopenRequest,
  requestOf,
  type RequestRow,
  type RequestState,
  requestToAnswer,
  settleRequest,
} from '../data/repositories/requests.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { editItem } from '../view/edit.ts'
import { agree, carryOut, withConsent } from './agreement.ts'
import { isFor, lapsedTime, mayGive, opens, tasksSeen, type WantedTime } from './requests.ts'
import { peopleIn, type PersonOf, share } from './share.ts'

/** What becomes of what was asked: accepted, declined, taken back. */

/** What accepting did, so that it can be taken back. */
export type Accepted =
  | { ok: true; did: 'declined' }
  | { ok: true; did: 'given'; key: string; inverse: unknown; connectionId: string | null }
  | { ok: true; did: 'shared'; before: Extract<Awaited<ReturnType<typeof share>>, { ok: true }>['before'] }
  /** `pieces` are still to be given their time; `reason`: why some can no longer be. */
  /** `carriedOut`: what waited for it was done; `reason`: why not. */
  | { ok: true; did: 'gives time'; pieces: readonly WantedTime[]; reason: string | null }
  | { ok: true; did: 'agreed'; carriedOut: boolean; reason: string | null }
  | { ok: false; status: 404 | 409; reason: string }

const SETTLED: Extract<Accepted, { ok: false }> = {
  ok: false,
  status: 404,
  reason: 'There is no such request any more.',
}

/**
 * Rights and what it is about are looked at again: what has become something else lapses, with the reason.
 * @param upTo how much of it a rule may show; as much as was asked for where nothing is said
 */
export async function answerRequest(
  ctx: Context,
  member: Member,
  id: string,
  { accepts, upTo = null }: { accepts: boolean; upTo?: Level | null },
): Promise<Accepted> {
  const { workspaceId } = member
  const at = ctx.now()
  const settle = (sql: Tx, state: RequestState, reason: string | null): Promise<number> => {
    sql.tell(workspaceId, { topics: ['team'] })
    return settleRequest(sql, { id, state, by: member.id, at, reason })
  }
  type First =
    Accepted | { key: string; to: string } | { agreed: RequestRow; asked: AskedToCarry; asker: PersonOf }
  const done = await withConsent(ctx, member, {}, async (sql): Promise<First> => {
    const row = await requestToAnswer(sql, { workspaceId, id })
    const sharing = await sharingOf(sql, workspaceId)
    if (!row || !isFor(sharing, member, row)) return SETTLED
    const asker = (await peopleIn(sql, workspaceId)).find(p => p.id === row.made_by)
    if (!asker) return SETTLED
    if (!accepts) return (await settle(sql, 'declined', null)) > 0 ? { ok: true, did: 'declined' } : SETTLED
    const asked = parsed(row.body)
    if (asked.ask === 'give') {
      const key = row.mirror_id ?? ''
      const task = (await tasksSeen(sql, member, [key], at))(key)
      const { to, ...frozen } = asked
      const reason = lapsedBecause(frozen, task?.frozen ?? null)
      if (reason !== null || !task || !mayGive(task)) {
        const why = reason ?? 'You may look at this task, and not give it to anybody.'
        if (reason !== null) await settle(sql, 'lapsed', reason)
        return { ok: false, status: 409, reason: why }
      }
      return (await settle(sql, 'accepted', null)) > 0 ? { key, to } : SETTLED
    }
    if (asked.ask === 'time') {
      const taskOf = await tasksSeen(sql, member, [...new Set(asked.pieces.map(p => p.task))], at)
      const whys = asked.pieces.map(p => lapsedTime(p, taskOf(p.task), at))
      const pieces = asked.pieces.filter((_, n) => whys[n] === null)
      const [reason = null] = whys.filter(why => why !== null)
      const state = pieces.length === 0 ? 'lapsed' : 'accepted'
      if ((await settle(sql, state, reason)) === 0) return SETTLED
      return pieces.length === 0
        ? { ok: false, status: 409, reason: reason ?? SETTLED.reason }
        : { ok: true, did: 'gives time', pieces, reason }
    }
    if (asked.ask === 'carry') {
      const level = lower(upTo ?? asked.level, asked.level)
      const reason = reaches(level, asked.level) ? null : `Up to: ${LEVEL_WORDS[level].name}.`
      if ((await settle(sql, 'accepted', reason)) === 0) return SETTLED
      await agree(sql, { who: member, at }, row, asked, level)
      return { agreed: row, asked, asker }
    }
    const lists = opens(sharing, row, asker, asked.level)
    if (lists.length === 0) {
      await settle(sql, 'lapsed', 'They see it already, or it is no longer there.')
      return { ok: false, status: 409, reason: 'They see it already, or it is no longer there.' }
    }
    if ((await settle(sql, 'accepted', null)) === 0) return SETTLED
    const changes = lists.map(list => ({
      list,
      to: { kind: 'person' as const, id: asker.id },
      level: asked.level,
      passOn: false,
    }))
    // To let one more person see is no choice about what was there before there were levels.
    const asBefore = lists.filter(list => sharing.of(list)?.asBefore)
    const done = await share(sql, { member, at }, { changes, asBefore })
    if (!done.ok) {
      await reopenRequest(sql, { id, by: member.id })
      return { ok: false, status: 409, reason: done.reason }
    }
    return { ok: true, did: 'shared', before: done.before }
  })
  if ('asked' in done) return { ok: false, status: 409, reason: done.reason }
  const first = done.did
  if ('ok' in first) return first
  if ('agreed' in first) {
    const { did, reason } = await carryOut(ctx, { ...first.asker, workspaceId }, first.agreed, first.asked)
    return { ok: true, did: 'agreed', carriedOut: did, reason }
  }
  const given = await editItem(ctx, member, first.key, { do: 'give', to: first.to })
  if (given.ok)
    return {
      ok: true,
      did: 'given',
      key: first.key,
      inverse: given.inverse,
      connectionId: given.connectionId,
    }
  await ctx.db.commit(async sql => {
    await reopenRequest(sql, { id, by: member.id })
    sql.tell(workspaceId, { topics: ['team'] })
  })
  return { ok: false, status: 409, reason: given.reason }
}

/** Takes back one's own answer; what accepting did is taken back by itself. */
export async function reopen(ctx: Context, member: Member, id: string): Promise<boolean> {
  const { workspaceId } = member
  return ctx.db.commit(async sql => {
    const row = await requestOf(sql, { workspaceId, id })
    // What a rule may show is said of the list itself from then on.
    if (row && row.state === 'accepted' && parsed(row.body).ask === 'carry') return false
    sql.tell(workspaceId, { topics: ['team'] })
    return (await reopenRequest(sql, { id, by: member.id })) > 0
  })
}

export async function withdrawRequest(ctx: Context, member: Member, id: string): Promise<boolean> {
  const { workspaceId } = member
  return ctx.db.commit(async sql => {
    const row = await requestToAnswer(sql, { workspaceId, id })
    if (row?.made_by !== member.id) return false
    sql.tell(workspaceId, { topics: ['team'] })
    const done = { id, state: 'withdrawn' as const, by: member.id, at: ctx.now(), reason: null }
    return (await settleRequest(sql, done)) > 0
  })
}
