import type { Event, ItemPatch, Task } from '@loom/core'
import type { Connector, Meanings, RemoteItem, RemoteWrite, WriteResult } from './connector.ts'

/**
 * A person says which of a service's two dates is the plan and which the deadline. If it is the other way round,
 * the two are swapped on the way in and on the way out.
 */
const swapped = <I extends Task | Event>(item: I): I =>
  item.kind === 'task' ? { ...item, start: item.due, due: item.start } : item

function swappedPatch({ start, due, ...rest }: ItemPatch): ItemPatch {
  return { ...rest, ...(due !== undefined && { start: due }), ...(start !== undefined && { due: start }) }
}

export function withDates(connector: Connector, meanings: Meanings): Connector {
  const where = new Set(Object.keys(meanings).filter(id => meanings[id]?.swapDates))
  if (where.size === 0) return connector
  const read = <R extends RemoteItem>(item: R): R =>
    where.has(item.collectionId) ? { ...item, item: swapped(item.item) } : item
  const written = (write: RemoteWrite): RemoteWrite => {
    if (!where.has(write.collection) || write.op === 'delete') return write
    return write.op === 'create'
      ? { ...write, item: swapped(write.item) }
      : { ...write, patch: swappedPatch(write.patch) }
  }
  const withDates = (result: WriteResult): WriteResult =>
    result.kind === 'done' && result.item ? { ...result, item: read(result.item) } : result
  const { canHold, datePrecision } = connector.capabilities
  return {
    ...connector,
    capabilities: {
      ...connector.capabilities,
      canHold: { ...canHold, start: canHold.start || canHold.due, due: canHold.due || canHold.start },
      datePrecision: { start: datePrecision.due, due: datePrecision.start },
    },
    async *delta(collection, token, options) {
      for await (const page of connector.delta(collection, token, options))
        yield { ...page, items: page.items.map(read) }
    },
    async read(collection, remoteId) {
      const result = await connector.read(collection, remoteId)
      return result.kind === 'found' ? { ...result, item: read(result.item) } : result
    },
    locate: async uid =>
      (await connector.locate(uid)).map(s =>
        where.has(s.collectionId) ? { ...s, item: swapped(s.item) } : s,
      ),
    write: async writes => (await connector.write(writes.map(written))).map(withDates),
    interpret(collection, original) {
      const found = connector.interpret(collection, original)
      return found && where.has(collection) ? { ...found, item: swapped(found.item) } : found
    },
  }
}
