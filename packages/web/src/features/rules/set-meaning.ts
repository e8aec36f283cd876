import { type Meaning, noMeaning, type TaskStatus } from '@loom/core/view'
import { answer, api } from '../../api/client.ts'

/**
 * Stores what one of a list's own statuses means. It applies to everything that reads the list and not only to
 * this rule, so it is stored with the connection at once. Throws Refused with the reason.
 */
export async function setMeaning(
  connection: string,
  collection: string,
  status: string,
  means: TaskStatus,
): Promise<void> {
  const param = { id: connection }
  const kept = await answer(() => api.connections[':id'].settings.$get({ param }))
  const meanings: Record<string, Meaning> = {}
  for (const c of kept.collections) {
    const own = c.meaning ?? (c.remoteId === collection ? plainMeaning(c.terms.statuses) : null)
    if (!own) continue
    meanings[c.remoteId] =
      c.remoteId === collection ? { ...own, statuses: { ...own.statuses, [status]: means } } : own
  }
  await answer(() =>
    api.connections[':id'].settings.$put({
      param,
      json: {
        name: kept.name,
        ownerId: kept.ownerId,
        scope: kept.scope,
        takesPart: kept.collections.filter(c => c.takesPart).map(c => c.remoteId),
        meanings,
        people: Object.fromEntries(kept.people.map(p => [p.id, p.memberId])),
        picks: kept.picks,
        dyes: Object.fromEntries(kept.collections.map(c => [c.remoteId, c.dye])),
      },
    }),
  )
}

/** What the service itself suggests, said out loud, so that one word of it can be changed. */
const plainMeaning = (statuses: readonly { id: string; means: TaskStatus }[]): Meaning => ({
  ...noMeaning,
  statuses: Object.fromEntries(statuses.map(s => [s.id, s.means])),
})
