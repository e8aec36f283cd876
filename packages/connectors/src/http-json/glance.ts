import { createHash } from 'node:crypto'
import type { Glance } from '../connector.ts'
import { listAt, textAt } from './pointer.ts'
import { partOf, type Reader } from './reader.ts'

/**
 * Whether anything has moved at a described service: by what it says of its lists in one request, where it has such a
 * mark; else by the first part of each list's delta.
 */
export function glanceFor(
  { client, description, must }: Reader,
  firstPart: (collection: string, token: string | null) => Promise<string | null>,
) {
  const { request, items, id, changed } = description.collections

  const byLists = async (at: string): Promise<Map<string, string>> => {
    const raws = listAt((await must(client.send(request, {}))).json, items)
    return new Map(raws.map(raw => [textAt(raw, id), textAt(raw, at)]))
  }

  return async (since: ReadonlyMap<string, string | null>): Promise<Glance> => {
    const marks = new Map<string, string>()
    if (changed !== undefined) {
      const marked = await byLists(changed)
      for (const collection of since.keys()) {
        const mark = marked.get(partOf(collection)?.whole ?? collection)
        if (mark) marks.set(collection, mark)
      }
      return { marks, requests: 1 }
    }
    for (const [collection, token] of since) {
      const part = await firstPart(collection, token)
      if (part !== null) marks.set(collection, createHash('sha256').update(part).digest('base64url'))
    }
    return { marks, requests: since.size }
  }
}
