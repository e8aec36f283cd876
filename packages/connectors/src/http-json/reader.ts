import { isKnownZone, ofOwn, type Meaning, suggestedMeaning, understand } from '@loom/core'
import {
  type DeltaPage,
  type Meanings,
  type ReadResult,
  type RemoteItem,
  ServiceError,
} from '../connector.ts'
import { type Answer, JsonClient, type JsonCredentials, type ClientOptions } from './client.ts'
import type { ServiceDescription } from './description.ts'
import type { FieldContext } from './field-context.ts'
import { contentRevision, readTask } from './fields.ts'
import { listAt, textAt, valueAt } from './pointer.ts'
import { inPath, type Variables } from './template.ts'
import { termsOf, wordsOf } from './terms.ts'

/** How what a described service sends reads as items of ours. */

/** A part of a collection: the items with one word in one of its columns. */
const SPLIT = /^(.*)#([^#=]+)=([^#=]+)$/
export const partOf = (collection: string): { whole: string; column: string; word: string } | null => {
  const m = SPLIT.exec(collection)
  return m?.[1] !== undefined && m[2] && m[3] ? { whole: m[1], column: m[2], word: m[3] } : null
}

const HEAVIEST = 300_000

export interface JsonOptions extends ClientOptions {
  /** The account's zone, once it is known. */
  zone: string | null
  meanings: Meanings
}

export function reader(
  description: ServiceDescription,
  address: string,
  credentials: JsonCredentials,
  options: JsonOptions,
) {
  const client = new JsonClient(description, address, credentials, options)
  const home = options.zone && isKnownZone(options.zone) ? options.zone : 'UTC'
  const shapes = new Map<string, { meaning: Meaning; words: Map<string, string> }>()
  let collectionsRead: Promise<unknown[]> | null = null

  const must = async (answer: Promise<Answer | null>): Promise<Answer> => {
    const got = await answer
    if (!got) throw new ServiceError('not-this-protocol', client.notThis())
    return got
  }

  /** `anew`: not what was read before. */
  const readCollections = (anew = false): Promise<unknown[]> => {
    if (anew) collectionsRead = null
    const { request, items } = description.collections
    collectionsRead ??= must(client.send(request, {})).then(a => listAt(a.json, items))
    return collectionsRead.catch((error: unknown) => {
      collectionsRead = null
      throw error
    })
  }

  /** How a collection's items are read. Words of columns are looked up once, when they are needed. */
  const shapeOf = async (collection: string): Promise<FieldContext> => {
    const whole = partOf(collection)?.whole ?? collection
    let shape = shapes.get(collection)
    if (!shape) {
      const own = ofOwn(options.meanings, collection) ?? ofOwn(options.meanings, whole)
      const mustAsk = description.columns !== undefined || (!own && !Array.isArray(description.statuses))
      const raw = mustAsk
        ? (await readCollections()).find(c => textAt(c, description.collections.id) === whole)
        : undefined
      shape = {
        meaning: own ?? suggestedMeaning(termsOf(description, raw)),
        words: wordsOf(description, raw),
      }
      shapes.set(collection, shape)
    }
    return { description, zone: home, ...shape }
  }

  const belongs = (raw: unknown, collection: string): boolean => {
    const { split } = description.collections
    const part = partOf(collection)
    return !part || !split || textAt(raw, split.cell.replace('{column}', part.column)) === part.word
  }

  const itemOf = (raw: unknown, collection: string, ctx: FieldContext): ReadResult => {
    const { id, revision, link } = description.item
    const original = JSON.stringify(raw) ?? ''
    const remoteId = textAt(raw, id)
    const rev = revision === null ? contentRevision(raw) : textAt(raw, revision)
    const odd = (reason: string): ReadResult => ({
      kind: 'problem',
      problem: { remoteId: remoteId || '?', revision: rev, reason, original: original.slice(0, HEAVIEST) },
    })
    if (!remoteId || !rev) return odd(`It has no ${remoteId ? 'revision' : 'id'} where the description says.`)
    if (original.length > HEAVIEST) return odd('It is larger than 300 kB.')
    const read = understand((): RemoteItem => {
      const { task, unknownStatus } = readTask(raw, ctx)
      const url = link
        ? linkOf(link, { id: remoteId, collection: partOf(collection)?.whole ?? collection })
        : null
      const item = { ...task, url }
      return { remoteId, collectionId: collection, revision: rev, item, original, unknownStatus }
    })
    return read.kind === 'understood' ? { kind: 'found', item: read.value } : odd(read.because)
  }

  const linkOf = (link: string, vars: Variables): string | null => {
    const url = inPath(link, vars)
    const full = url.startsWith('/') ? new URL(address).origin + url : url
    return URL.canParse(full) && /^https?:$/.test(new URL(full).protocol) ? full : null
  }

  const sort = (raws: unknown[], collection: string, ctx: FieldContext, page: DeltaPage): void => {
    for (const raw of raws) {
      if (!belongs(raw, collection)) continue
      const read = itemOf(raw, collection, ctx)
      if (read.kind === 'found') page.items.push(read.item)
      else if (read.kind === 'problem') page.problems.push(read.problem)
    }
  }

  const rawAt = async (remoteId: string): Promise<unknown> => {
    const answer = await client.send(description.item.request, { id: remoteId })
    return answer ? valueAt(answer.json, description.item.at) : undefined
  }

  /** Which of our collections an item is in: a part of one where the caller asks for that. */
  const homeOf = (raw: unknown, asked: string): string => {
    const whole = textAt(raw, description.item.collection)
    const part = partOf(asked)
    const { split } = description.collections
    if (!part || !split || part.whole !== whole) return whole || asked
    const word = textAt(raw, split.cell.replace('{column}', part.column))
    return word ? `${whole}#${part.column}=${word}` : whole
  }

  const read = async (collection: string, remoteId: string): Promise<ReadResult> => {
    const raw = await rawAt(remoteId)
    if (raw === undefined || raw === null) return { kind: 'absent' }
    const where = homeOf(raw, collection)
    return itemOf(raw, where, await shapeOf(where))
  }

  /** What an original kept earlier reads as today; null where its list has no meaning yet. */
  const interpret = (collection: string, original: string): ReadResult | null => {
    const shape = shapes.get(collection)
    const meaning = ofOwn(options.meanings, collection) ?? shape?.meaning
    if (!meaning) return null
    const ctx: FieldContext = { description, zone: home, meaning, words: shape?.words ?? new Map() }
    const json = understand((): unknown => JSON.parse(original))
    return json.kind === 'understood' ? itemOf(json.value, collection, ctx) : null
  }

  const revisionIn = (raw: unknown): string =>
    description.item.revision === null ? contentRevision(raw) : textAt(raw, description.item.revision)

  return {
    client,
    description,
    options,
    must,
    readCollections,
    shapeOf,
    itemOf,
    sort,
    rawAt,
    homeOf,
    read,
    interpret,
    revisionIn,
  }
}
export type Reader = ReturnType<typeof reader>
