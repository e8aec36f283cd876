import { ofOwn, type Search, type Task, type TaskPatch, verdictOf } from '@loom/core'
import {
  failedWrite,
  type RemoteItem,
  type RemoteWrite,
  ServiceError,
  type WriteResult,
} from '../connector.ts'
import { type Answer, Changed } from './client.ts'
import type { Operation } from './description.ts'
import { type FieldContext, readTask, slug, statusOf, writeFields } from './fields.ts'
import { listAt, textAt, valueAt } from './pointer.ts'
import { partOf, type Reader } from './reader.ts'
import { inBody, type Variables } from './template.ts'

/** Writing to a described service: operations of several steps, several writes in one call, and what came of each. */
export function writer(reader: Reader, search: (uid: string) => Promise<Search<RemoteItem>>) {
  const { client, description, must, shapeOf, itemOf, rawAt, homeOf, revisionIn } = reader
  const { operations } = description

  /** Runs an operation's steps; the item as the last of them returned it, or as it reads then. */
  const run = async (
    operation: Operation,
    vars: Variables,
    readAfter = true,
  ): Promise<{ kind: 'done'; raw: unknown; status: number } | { kind: 'conflict' | 'absent' }> => {
    let raw: unknown
    let status = 0
    const kept: Variables = { ...vars }
    for (const step of operation.steps) {
      const { ok, when, conflict, item, keep, ...request } = step
      let answer: Answer | null
      try {
        answer = await client.send(
          request,
          kept,
          {},
          [...ok, ...conflict].filter(s => s !== 404),
        )
      } catch (error) {
        if (error instanceof Changed) return { kind: 'conflict' }
        throw error
      }
      if (!answer) return { kind: 'absent' }
      if (conflict.includes(answer.status)) return { kind: 'conflict' }
      if (when && valueAt(answer.json, when.at) !== when.is)
        throw new ServiceError('refused', `${client.host} did not confirm it.`)
      for (const [name, pointer] of Object.entries(keep)) kept[name] = valueAt(answer.json, pointer)
      if (item !== undefined) raw = valueAt(answer.json, item)
      status = answer.status
    }
    return {
      kind: 'done',
      raw: raw ?? (readAfter && kept.id !== undefined ? await rawAt(String(kept.id)) : undefined),
      status,
    }
  }

  /** What a new item is told of: only what it has. */
  const creationOf = (task: Task): TaskPatch => {
    const {
      summary,
      description: text,
      start,
      due,
      estimatedDuration,
      priority,
      categories,
      assignees,
      parent,
    } = task
    return {
      summary,
      // Our marker goes with the notes.
      ...((text || !description.fields.uid) && { description: text }),
      ...(start && { start }),
      ...(due && { due }),
      ...(estimatedDuration && { estimatedDuration }),
      ...(priority && { priority }),
      ...(categories.length > 0 && { categories }),
      ...(assignees.length > 0 && { assignees }),
      ...(parent && { parent }),
      ...(task.status !== 'needs-action' && !statusOperation(task.status) && { status: task.status }),
    }
  }

  const created = async (write: Extract<RemoteWrite, { op: 'create' }>): Promise<WriteResult> => {
    const { collection, item } = write
    const task = item as Task
    if (!operations.create)
      return { kind: 'refused', reason: `${description.name} takes no new items from us.` }
    if (write.triedAgoMs !== null && !description.fields.uid) {
      // The answer to an earlier try was lost; our marker tells whether it took effect, wherever it was moved since.
      const behindMs = description.list.behindSeconds * 1000
      const verdict = verdictOf(await search(task.uid), write.triedAgoMs, behindMs)
      if (verdict.kind === 'made') return { kind: 'done', item: verdict.item, ours: false }
      if (verdict.kind === 'unsure') return verdict
    }
    const ctx = await shapeOf(collection)
    const part = partOf(collection)
    const fields = writeFields(creationOf(task), task, ctx, task.uid)
    if (part && description.collections.split) {
      const cell = description.collections.split.cell.replace('{column}', part.column)
      putCell(fields, cell, part.word)
    }
    const vars = { collection: part?.whole ?? collection, uid: task.uid, fields }
    const made = await run(operations.create, vars)
    if (made.kind !== 'done') return { kind: 'refused', reason: 'The list is no longer there.' }
    const known = itemOf(made.raw, collection, ctx)
    if (known.kind !== 'found')
      return { kind: 'refused', reason: 'The service made something unreadable of it.' }
    // 200 instead of 201: this reference was there already, from an earlier try.
    return { kind: 'done', item: known.item, ours: !(description.fields.uid && made.status === 200) }
  }

  const patchFields = async (
    write: Extract<RemoteWrite, { op: 'patch' }>,
    patch: TaskPatch,
    ctx: FieldContext,
  ): Promise<Record<string, unknown>> => {
    // Where our marker stands in the notes, new notes are written with it.
    const marked = !description.fields.uid && patch.description !== undefined
    const uid = marked ? markerIn(await rawAt(write.remoteId), ctx) : null
    return writeFields(patch, patch, ctx, uid)
  }
  const markerIn = (raw: unknown, ctx: FieldContext): string | null => {
    if (raw === undefined || raw === null) return null
    const { uid } = readTask(raw, ctx).task
    return uid.startsWith(`${slug(description.name)}-`) ? null : uid
  }
  const noSuchStatus = (status: string): WriteResult => ({
    kind: 'refused',
    reason: `No status there means “${status}”. Say which one does, under Connections.`,
  })
  /** The operation that sets a status, where it is not a field like any other. */
  const statusOperation = (status: Task['status'] | undefined): Operation | undefined =>
    status === undefined
      ? undefined
      : ((status === 'completed'
          ? operations.complete
          : status === 'needs-action'
            ? operations.reopen
            : undefined) ?? operations.status)

  const patched = async (write: Extract<RemoteWrite, { op: 'patch' }>): Promise<WriteResult> => {
    const before = await beforeWrite(write)
    if (before !== 'same') return { kind: before }
    const ctx = await shapeOf(write.collection)
    const { status: asked, serviceStatus, ...rest } = write.patch as TaskPatch
    const status =
      asked ?? (serviceStatus === undefined ? undefined : ofOwn(ctx.meaning.statuses, serviceStatus))
    const vars: Variables = {
      ...revisionVars(write.revision),
      id: write.remoteId,
      collection: write.collection,
    }
    let last: Awaited<ReturnType<typeof run>> | null = null
    const own = statusOperation(status)
    const known =
      status === undefined
        ? undefined
        : statusOf({ status, ...(serviceStatus !== undefined && { serviceStatus }) }, ctx.meaning)
    if (status !== undefined && known === undefined && !(status === 'completed' && operations.complete))
      return noSuchStatus(status)
    const inFields: TaskPatch =
      status !== undefined && !own
        ? { ...rest, status, ...(serviceStatus !== undefined && { serviceStatus }) }
        : rest
    if (Object.keys(inFields).length > 0) {
      if (!operations.change)
        return { kind: 'refused', reason: `${description.name} lets nobody change this from outside.` }
      last = await run(operations.change, { ...vars, fields: await patchFields(write, inFields, ctx) })
      if (last.kind !== 'done') return { kind: last.kind }
      Object.assign(vars, revisionVars(revisionIn(last.raw)))
    }
    if (own) {
      last = await run(own, { ...vars, status: known })
      if (last.kind !== 'done') return { kind: last.kind }
    }
    const now = last?.kind === 'done' ? last.raw : await rawAt(write.remoteId)
    const where = homeOf(now, write.collection)
    const item = itemOf(now, where, await shapeOf(where))
    if (item.kind !== 'found')
      return { kind: 'refused', reason: 'The service made something unreadable of it.' }
    return { kind: 'done', item: item.item, ours: true }
  }

  const revisionVars = (revision: string): Variables => ({ revision, revisionNumber: Number(revision) })

  /**
   * Whether a write may go. A service that checks no revision itself is read first; what changes in the
   * moment between is the weaker promise its capabilities declare.
   */
  const beforeWrite = async (write: {
    remoteId: string
    revision: string
  }): Promise<'same' | 'absent' | 'conflict'> => {
    if (description.preconditions) return 'same'
    const raw = await rawAt(write.remoteId)
    if (raw === undefined || raw === null) return 'absent'
    return revisionIn(raw) === write.revision ? 'same' : 'conflict'
  }

  const removed = async (write: Extract<RemoteWrite, { op: 'delete' }>): Promise<WriteResult> => {
    if (!operations.delete)
      return { kind: 'refused', reason: `${description.name} lets nobody delete this from outside.` }
    const before = await beforeWrite(write)
    if (before !== 'same') return { kind: before }
    // Nothing is read after it: there is nothing left to read.
    const gone = await run(operations.delete, { ...revisionVars(write.revision), id: write.remoteId }, false)
    return gone.kind === 'done' ? { kind: 'done', item: null, ours: true } : { kind: gone.kind }
  }

  /** Several writes in one call; null when one of them is more than the call can say. */
  const together = async (writes: RemoteWrite[]): Promise<WriteResult[] | null> => {
    const { batch } = description
    if (!batch || writes.length < 2) return null
    const changes: unknown[] = []
    for (const w of writes) {
      const ctx = await shapeOf(w.collection)
      if (w.op === 'create') {
        if (!description.fields.uid || partOf(w.collection)) return null
        const task = w.item as Task
        const fields = writeFields(creationOf(task), task, ctx, task.uid)
        changes.push(inBody(batch.create, { collection: w.collection, uid: task.uid, fields }))
      } else if (w.op === 'delete')
        changes.push(inBody(batch.delete, { id: w.remoteId, ...revisionVars(w.revision) }))
      else {
        const patch = w.patch as TaskPatch
        if (statusOperation(patch.status)) return null
        const fields = await patchFields(w, patch, ctx)
        changes.push(inBody(batch.change, { id: w.remoteId, ...revisionVars(w.revision), fields }))
      }
    }
    const answer = await must(client.send(batch.request, { changes }))
    const results = listAt(answer.json, batch.results)
    return Promise.all(
      writes.map(async (w, i): Promise<WriteResult> => {
        const status = Number(textAt(results[i], batch.status))
        if (!status)
          return {
            kind: 'retry',
            error: new ServiceError('service-error', `${client.host} left a change unanswered.`),
          }
        if (status === 409 || status === 412) return { kind: 'conflict' }
        if (status === 404) return { kind: 'absent' }
        if (status >= 300)
          return {
            kind: 'refused',
            reason: `${client.host} refused it: ${textAt(results[i], batch.error) || status}.`,
          }
        if (w.op === 'delete') return { kind: 'done', item: null, ours: true }
        const raw = valueAt(results[i], batch.item)
        const where = homeOf(raw, w.collection)
        const item = itemOf(raw, where, await shapeOf(where))
        return item.kind === 'found'
          ? { kind: 'done', item: item.item, ours: !(w.op === 'create' && status === 200) }
          : { kind: 'refused', reason: 'The service made something unreadable of it.' }
      }),
    )
  }

  const one = (w: RemoteWrite): Promise<WriteResult> =>
    w.op === 'create' ? created(w) : w.op === 'patch' ? patched(w) : removed(w)

  return async (writes: RemoteWrite[]): Promise<WriteResult[]> => {
    try {
      const all = await together(writes)
      if (all) return all
    } catch (error) {
      return writes.map(() => failedWrite(error))
    }
    const results: WriteResult[] = []
    for (const w of writes) results.push(await one(w).catch(failedWrite))
    return results
  }
}

function putCell(fields: Record<string, unknown>, pointer: string, word: string): void {
  const parts = pointer.slice(1).split('/')
  let at = fields
  for (const part of parts.slice(0, -1)) at = (at[part] ??= {}) as Record<string, unknown>
  const last = parts.at(-1)
  if (last) at[last] = word
}
