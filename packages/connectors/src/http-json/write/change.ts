import { ofOwn, type TaskPatch } from '@loom/core'
import type { RemoteWrite, WriteResult } from '../../connector.ts'
import type { Operation } from '../description.ts'
import type { FieldContext } from '../field-context.ts'
import { writeFields } from '../fields.ts'
import type { Reader } from '../reader.ts'
import { statusOf } from '../service-status.ts'
import type { Variables } from '../template.ts'
import { beforeWrite, resultOf, revisionVars } from './outcome.ts'
import { statusOperation } from './status-operation.ts'
import { runSteps } from './steps.ts'

type Change = Extract<RemoteWrite, { op: 'patch' }>

/** The fields of a patch. Notes are written without our marker, because the item exists already. */
export async function patchFields(
  reader: Reader,
  { remoteId }: Change,
  patch: TaskPatch,
  ctx: FieldContext,
): Promise<Record<string, unknown>> {
  const { description, rawAt } = reader
  const movesSpan = (['start', 'due'] as const).some(name => {
    const field = description.fields[name]
    return patch[name] && field?.as === 'moment' && field.endAt !== undefined
  })
  return writeFields(patch, patch, ctx, { was: movesSpan ? ((await rawAt(remoteId)) ?? null) : null })
}

/** A patch as the operations that write it. */
interface Parts {
  /** Written by the operation `change`. */
  fields: TaskPatch
  /** Sets the status where that is an operation of its own. */
  status: { operation: Operation; value: string | undefined } | null
}

/** A sentence where no status of the service means what is to be said. */
function partsOf({ status: asked, serviceStatus, ...rest }: TaskPatch, ctx: FieldContext): Parts | string {
  const { operations } = ctx.description
  const named = serviceStatus === undefined ? undefined : ofOwn(ctx.meaning.statuses, serviceStatus)
  const status = asked ?? named
  if (status === undefined) return { fields: rest, status: null }
  const both: TaskPatch = { status, ...(serviceStatus !== undefined && { serviceStatus }) }
  const value = statusOf(both, ctx.meaning)
  if (value === undefined && !(status === 'completed' && operations.complete))
    return `No status there means “${status}”. Say which one does, under Connections.`
  const operation = statusOperation(ctx.description, status)
  return operation
    ? { fields: rest, status: { operation, value } }
    : { fields: { ...rest, ...both }, status: null }
}

export async function change(reader: Reader, write: Change): Promise<WriteResult> {
  const { description, rawAt, revisionIn, shapeOf } = reader
  const before = await beforeWrite(reader, write)
  if (before !== 'same') return { kind: before }
  const ctx = await shapeOf(write.collection)
  const parts = partsOf(write.patch as TaskPatch, ctx)
  if (typeof parts === 'string') return { kind: 'refused', reason: parts }
  const { remoteId: id, collection } = write
  let vars: Variables = { ...revisionVars(write.revision), id, collection }
  let raw: unknown
  if (Object.keys(parts.fields).length > 0) {
    if (!description.operations.change)
      return { kind: 'refused', reason: `${description.name} lets nobody change this from outside.` }
    const fields = await patchFields(reader, write, parts.fields, ctx)
    const changed = await runSteps(reader, description.operations.change, { ...vars, fields })
    if (changed.kind !== 'done') return { kind: changed.kind }
    raw = changed.raw
    vars = { ...vars, ...revisionVars(revisionIn(raw)) }
  }
  if (parts.status) {
    const set = await runSteps(reader, parts.status.operation, { ...vars, status: parts.status.value })
    if (set.kind !== 'done') return { kind: set.kind }
    raw = set.raw
  }
  return resultOf(reader, raw ?? (await rawAt(id)), collection)
}
