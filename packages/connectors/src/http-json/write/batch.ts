import type { Task, TaskPatch } from '@loom/core'
import { type RemoteWrite, ServiceError, type WriteResult } from '../../connector.ts'
import type { ServiceDescription } from '../description.ts'
import { writeFields } from '../fields.ts'
import { listAt, textAt, valueAt } from '../pointer.ts'
import { partOf, type Reader } from '../reader.ts'
import { inBody } from '../template.ts'
import { patchFields } from './change.ts'
import { creationOf } from './create.ts'
import { resultOf, revisionVars } from './outcome.ts'
import { statusOperation } from './status-operation.ts'

type Batch = NonNullable<ServiceDescription['batch']>

/** One write as the call says it; null when it is more than the call can say. */
async function changeOf(reader: Reader, batch: Batch, write: RemoteWrite): Promise<unknown> {
  const { description, shapeOf } = reader
  if (write.op === 'delete')
    return inBody(batch.delete, { id: write.remoteId, ...revisionVars(write.revision) })
  const ctx = await shapeOf(write.collection)
  if (write.op === 'create') {
    if (!description.fields.uid || partOf(write.collection)) return null
    const task = write.item as Task
    const fields = writeFields(creationOf(description, task), task, ctx, { uid: task.uid })
    return inBody(batch.create, { collection: write.collection, uid: task.uid, fields })
  }
  const patch = write.patch as TaskPatch
  if (statusOperation(description, patch.status)) return null
  const fields = await patchFields(reader, write, patch, ctx)
  return inBody(batch.change, { id: write.remoteId, ...revisionVars(write.revision), fields })
}

/** What the call's answer says of one write. */
function answerTo(reader: Reader, batch: Batch, write: RemoteWrite, answer: unknown): Promise<WriteResult> {
  const { host } = reader.client
  const status = Number(textAt(answer, batch.status))
  const is = (result: WriteResult): Promise<WriteResult> => Promise.resolve(result)
  if (!status)
    return is({
      kind: 'retry',
      error: new ServiceError('service-error', `${host} left a change unanswered.`),
    })
  if (status === 409 || status === 412) return is({ kind: 'conflict' })
  if (status === 404) return is({ kind: 'absent' })
  if (status >= 300)
    return is({ kind: 'refused', reason: `${host} refused it: ${textAt(answer, batch.error) || status}.` })
  if (write.op === 'delete') return is({ kind: 'done', item: null, ours: true })
  const ours = !(write.op === 'create' && status === 200)
  return resultOf(reader, valueAt(answer, batch.item), write.collection, ours)
}

/** Several writes in one call; null if the service has no such call, or it cannot carry one of them. */
export async function writeTogether(reader: Reader, writes: RemoteWrite[]): Promise<WriteResult[] | null> {
  const { client, description, must } = reader
  const { batch } = description
  if (!batch || writes.length < 2) return null
  const changes: unknown[] = []
  for (const w of writes) {
    const said = await changeOf(reader, batch, w)
    if (said === null) return null
    changes.push(said)
  }
  const answer = await must(client.send(batch.request, { changes }))
  const answers = listAt(answer.json, batch.results)
  return Promise.all(writes.map((w, i) => answerTo(reader, batch, w, answers[i])))
}
