import { type Search, type Task, type TaskPatch, verdictOf } from '@loom/core'
import type { RemoteItem, RemoteWrite, WriteResult } from '../../connector.ts'
import type { ServiceDescription } from '../description.ts'
import { writeFields } from '../fields.ts'
import { putAt } from '../pointer.ts'
import { partOf, type Reader } from '../reader.ts'
import { statusOperation } from './status-operation.ts'
import { runSteps } from './steps.ts'

/** What a new item is told of: only what it has. */
export function creationOf(description: ServiceDescription, task: Task): TaskPatch {
  const { summary, start, due, estimatedDuration, priority, categories, assignees, parent, status } = task
  return {
    summary,
    // Our marker goes with the notes.
    ...((task.description || !description.fields.uid) && { description: task.description }),
    ...(start && { start }),
    ...(due && { due }),
    ...(estimatedDuration && { estimatedDuration }),
    ...(priority && { priority }),
    ...(categories.length > 0 && { categories }),
    ...(assignees.length > 0 && { assignees }),
    ...(parent && { parent }),
    ...(status !== 'needs-action' && !statusOperation(description, status) && { status }),
  }
}

type Create = Extract<RemoteWrite, { op: 'create' }>

/** What became of an earlier try whose answer was lost; null where it took no effect, or there was none. */
async function earlierTry(
  { description }: Reader,
  { triedAgoMs }: Create,
  search: () => Promise<Search<RemoteItem>>,
): Promise<WriteResult | null> {
  // A service with a place for our reference answers the same to a second try.
  if (triedAgoMs === null || description.fields.uid) return null
  // Our marker tells whether it took effect, wherever it was moved since.
  const verdict = verdictOf(await search(), triedAgoMs, description.list.behindSeconds * 1000)
  if (verdict.kind === 'made') return { kind: 'done', item: verdict.item, ours: false }
  return verdict.kind === 'unsure' ? verdict : null
}

export async function create(
  reader: Reader,
  write: Create,
  search: (uid: string) => Promise<Search<RemoteItem>>,
): Promise<WriteResult> {
  const { description, itemOf, shapeOf } = reader
  const { collection } = write
  const task = write.item as Task
  if (!description.operations.create)
    return { kind: 'refused', reason: `${description.name} takes no new items from us.` }
  const earlier = await earlierTry(reader, write, () => search(task.uid))
  if (earlier) return earlier
  const ctx = await shapeOf(collection)
  const fields = writeFields(creationOf(description, task), task, ctx, { uid: task.uid })
  const part = partOf(collection)
  const { split } = description.collections
  if (part && split) putAt(fields, split.cell.replace('{column}', part.column), part.word)
  const vars = { collection: part?.whole ?? collection, uid: task.uid, fields }
  const made = await runSteps(reader, description.operations.create, vars)
  if (made.kind !== 'done') return { kind: 'refused', reason: 'The list is no longer there.' }
  const read = itemOf(made.raw, collection, ctx)
  if (read.kind !== 'found')
    return { kind: 'refused', reason: 'The service made something unreadable of it.' }
  // 200 instead of 201: this reference was there already, from an earlier try.
  return { kind: 'done', item: read.item, ours: !(description.fields.uid && made.status === 200) }
}
