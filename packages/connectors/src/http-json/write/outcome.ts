import type { WriteResult } from '../../connector.ts'
import type { Reader } from '../reader.ts'
import type { Variables } from '../template.ts'

/** What several kinds of write share: the revision they go by, and the item they leave. */

export const revisionVars = (revision: string): Variables => ({ revision, revisionNumber: Number(revision) })

/**
 * Whether a write may be sent. If the service checks no revision itself, the item is read first. A change in the
 * moment between is the weaker promise that its capabilities declare.
 */
export async function beforeWrite(
  { description, rawAt, revisionIn }: Reader,
  write: { remoteId: string; revision: string },
): Promise<'same' | 'absent' | 'conflict'> {
  if (description.preconditions) return 'same'
  const raw = await rawAt(write.remoteId)
  if (raw === undefined || raw === null) return 'absent'
  return revisionIn(raw) === write.revision ? 'same' : 'conflict'
}

/** A write is done once what the service made of it can be read. */
export async function resultOf(
  { itemOf, shapeOf, homeOf }: Reader,
  raw: unknown,
  collection: string,
  ours = true,
): Promise<WriteResult> {
  const home = homeOf(raw, collection)
  const read = itemOf(raw, home, await shapeOf(home))
  return read.kind === 'found'
    ? { kind: 'done', item: read.item, ours }
    : { kind: 'refused', reason: 'The service made something unreadable of it.' }
}
