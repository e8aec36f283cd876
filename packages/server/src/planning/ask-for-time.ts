import type { Context } from '../context/context.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { makeRequest, MOST_TIMES, type WantedTime } from '../team/requests.ts'

/** Time of others that one may not write: each of them is asked, once for all that is theirs. */

export interface TimeToAsk extends WantedTime {
  person: string
}
export type AskedFor = { ok: true; request: string } | { ok: false; reason: string }

/** Answers in the order given. */
export async function askForTime(
  ctx: Context,
  member: Member,
  wanted: readonly TimeToAsk[],
): Promise<AskedFor[]> {
  const answers = new Map<TimeToAsk, AskedFor>()
  for (const person of new Set(wanted.map(w => w.person))) {
    const theirs = wanted.filter(w => w.person === person)
    for (let from = 0; from < theirs.length; from += MOST_TIMES) {
      const some = theirs.slice(from, from + MOST_TIMES)
      const pieces = some.map(({ task, as, fromMs, toMs }): WantedTime => ({ task, as, fromMs, toMs }))
      const made = await makeRequest(ctx, member, { ask: 'time', person, pieces })
      for (const w of some)
        answers.set(w, made.ok ? { ok: true, request: made.id } : { ok: false, reason: made.reason })
    }
  }
  return wanted.map(w => answers.get(w) ?? { ok: false, reason: 'It was not asked for.' })
}
