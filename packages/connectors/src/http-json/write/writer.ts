import type { Search } from '@loom/core'
import { failedWrite, type RemoteItem, type RemoteWrite, type WriteResult } from '../../connector.ts'
import type { Reader } from '../reader.ts'
import { writeTogether } from './batch.ts'
import { change } from './change.ts'
import { create } from './create.ts'
import { beforeWrite, revisionVars } from './outcome.ts'
import { runSteps } from './steps.ts'

async function remove(reader: Reader, write: Extract<RemoteWrite, { op: 'delete' }>): Promise<WriteResult> {
  const { operations, name } = reader.description
  if (!operations.delete) return { kind: 'refused', reason: `${name} lets nobody delete this from outside.` }
  const before = await beforeWrite(reader, write)
  if (before !== 'same') return { kind: before }
  // Nothing is read after it: there is nothing left to read.
  const vars = { ...revisionVars(write.revision), id: write.remoteId }
  const gone = await runSteps(reader, operations.delete, vars, false)
  return gone.kind === 'done' ? { kind: 'done', item: null, ours: true } : { kind: gone.kind }
}

/** Writing to a described service: together where it can, else one after the other. Errors are results. */
export function writer(reader: Reader, search: (uid: string) => Promise<Search<RemoteItem>>) {
  const one = (write: RemoteWrite): Promise<WriteResult> => {
    switch (write.op) {
      case 'create':
        return create(reader, write, search)
      case 'patch':
        return change(reader, write)
      case 'delete':
        return remove(reader, write)
    }
  }
  return async (writes: RemoteWrite[]): Promise<WriteResult[]> => {
    try {
      const all = await writeTogether(reader, writes)
      if (all) return all
    } catch (error) {
      return writes.map(() => failedWrite(error))
    }
    const results: WriteResult[] = []
    for (const w of writes) results.push(await one(w).catch(failedWrite))
    return results
  }
}
