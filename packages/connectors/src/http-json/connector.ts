import { createHmac, timingSafeEqual } from 'node:crypto'
import {
  isKnownZone,
  type Meaning,
  statusToWrite,
  suggestedMeaning,
  type Task,
  type TaskPatch,
} from '@loom/core'
import {
  type Account,
  type Capabilities,
  type Connector,
  type DeltaPage,
  emptyPage,
  type FoundCollection,
  type Meanings,
  type ReadResult,
  type RemoteItem,
  type RemoteWrite,
  ServiceError,
  type WriteResult,
} from '../connector.ts'
import { type Answer, Changed, JsonClient, type JsonCredentials, type ClientOptions } from './client.ts'
import type { Operation, ServiceDescription } from './description.ts'
import { contentRevision, type FieldContext, OddValue, readTask, slug, writeFields } from './fields.ts'
import { listAt, textAt, valueAt } from './pointer.ts'
import { inBody, inPath, type Variables } from './template.ts'
import { columnsOf, termsOf, wordsOf } from './terms.ts'

/** Any task manager that a service description tells how to speak to. */

/** A part of a collection: the items with one word in one of its columns. */
const SPLIT = /^(.*)#([^#=]+)=([^#=]+)$/
const partOf = (collection: string): { whole: string; column: string; word: string } | null => {
  const m = SPLIT.exec(collection)
  return m?.[1] !== undefined && m[2] && m[3] ? { whole: m[1], column: m[2], word: m[3] } : null
}

const HEAVIEST = 300_000

export function capabilitiesOf(description: ServiceDescription): Capabilities {
  const { fields, operations } = description
  const writable = (name: keyof typeof fields): boolean =>
    fields[name] !== undefined && fields[name]?.to !== null
  const status = writable('status') && operations.change !== undefined
  const { summary, start } = fields
  return {
    canHold: {
      estimate: writable('estimatedDuration'),
      location: false,
      due: writable('due'),
      start: writable('start'),
      notes: writable('description'),
    },
    can: {
      create: operations.create !== undefined,
      change: operations.change !== undefined,
      complete: operations.complete !== undefined || operations.status !== undefined || status,
      delete: operations.delete !== undefined,
    },
    summaryMaxLength: summary?.as === 'text' ? (summary.maxLength ?? null) : null,
    datePrecision: start && start.as !== 'day' ? 'minute' : 'day',
    preconditions: description.preconditions,
    notifications: description.notifications !== undefined,
    batch: description.batch?.max ?? 1,
  }
}

export interface JsonOptions extends ClientOptions {
  /** The account's zone, once it is known. */
  zone: string | null
  meanings: Meanings
}

export function httpJson(
  description: ServiceDescription,
  address: string,
  credentials: JsonCredentials,
  options: JsonOptions,
): Connector {
  const client = new JsonClient(description, address, credentials, options)
  const capabilities = capabilitiesOf(description)
  const { operations } = description
  const home = options.zone && isKnownZone(options.zone) ? options.zone : 'UTC'
  const shapes = new Map<string, { meaning: Meaning; words: Map<string, string> }>()
  let collectionsRead: Promise<unknown[]> | null = null

  const must = async (answer: Promise<Answer | null>): Promise<Answer> => {
    const got = await answer
    if (!got) throw new ServiceError('not-this-protocol', client.notThis())
    return got
  }

  const readCollections = (): Promise<unknown[]> => {
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
      const own = options.meanings[collection] ?? options.meanings[whole]
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
    try {
      const { task, unknownStatus } = readTask(raw, ctx)
      const url = link
        ? linkOf(link, { id: remoteId, collection: partOf(collection)?.whole ?? collection })
        : null
      const item: RemoteItem = {
        remoteId,
        collectionId: collection,
        revision: rev,
        item: { ...task, url },
        original,
        unknownStatus,
      }
      return { kind: 'found', item }
    } catch (error) {
      if (error instanceof OddValue) return odd(error.message)
      throw error
    }
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

  interface Pages {
    json: unknown
    raws: unknown[]
    next: string | null
  }

  /** One page of a list. `at` is what the paging calls the next one. */
  const pageAt = async (
    vars: Variables,
    at: string | null,
    more: Record<string, string | undefined>,
    items = description.list.items,
  ): Promise<Pages> => {
    const { request, paging, total } = description.list
    const answer =
      paging.kind === 'link' && at !== null
        ? await client.follow({ method: 'GET', path: at, headers: {}, body: undefined })
        : await client.send(request, vars, {
            ...more,
            ...('param' in paging
              ? { [paging.param]: at ?? (paging.kind === 'page' ? String(paging.first) : undefined) }
              : {}),
          })
    if (!answer) throw new ServiceError('missing', 'The list is no longer there.')
    const raws = valueAt(answer.json, items)
    if (!Array.isArray(raws)) throw new ServiceError('not-this-protocol', client.notThis())
    const { json } = answer
    let next: string | null = null
    if (paging.kind === 'cursor') next = textAt(json, paging.next) || null
    else if (paging.kind === 'page') {
      const page = Number(at ?? paging.first)
      next = page - paging.first + 1 < Number(textAt(json, paging.pages)) ? String(page + 1) : null
    } else if (paging.kind === 'offset') {
      const upTo = Number(at ?? 0) + raws.length
      const goesOn = paging.more ? valueAt(json, paging.more) === true : upTo < Number(textAt(json, total))
      next = raws.length > 0 && goesOn ? String(upTo) : null
    } else if (paging.kind === 'link') {
      const named = /<([^>]+)>\s*;[^,]*\brel="?next"?/.exec(answer.header('link') ?? '')?.[1]
      next = named ? new URL(named, new URL(address).origin).href : null
    }
    return { json, raws: raws as unknown[], next }
  }

  const latest = (raws: unknown[], before: string): string => {
    const field = description.delta.kind === 'updated-since' ? description.delta.field : ''
    return raws.reduce<string>((max, raw) => {
      const at = textAt(raw, field)
      return at > max ? at : max
    }, before)
  }

  /**
   * State of an updated-since listing: by the service's own clock, when the whole was last read, and in how
   * many pages. What fits into one page is read whole each time: that costs no more, shows at once what was
   * removed, and a clock that is set back hides nothing.
   */
  interface Since {
    since: string
    fullAt: number
    pages: number
  }
  const sinceOf = (token: string | null): Since | null => {
    if (token === null) return null
    try {
      const { since, fullAt, pages = 2 } = JSON.parse(token) as Partial<Since>
      return typeof since === 'string' && typeof fullAt === 'number' ? { since, fullAt, pages } : null
    } catch {
      return null
    }
  }

  async function* delta(
    collection: string,
    token: string | null,
    cursor: string | null = null,
  ): AsyncGenerator<DeltaPage> {
    const ctx = await shapeOf(collection)
    const vars = { collection: partOf(collection)?.whole ?? collection }
    const { delta: how, list } = description
    if (how.kind === 'token' && token !== null) {
      const answer = await client.send(how.request, { ...vars, since: token }, {}, how.refused)
      if (answer && !how.refused.includes(answer.status)) {
        const page = emptyPage(false)
        sort(listAt(answer.json, how.items), collection, ctx, page)
        page.left = how.left ? listAt(answer.json, how.left).map(String) : []
        page.token = textAt(answer.json, how.next) || token
        yield page
        return
      }
    }
    const known = how.kind === 'updated-since' ? sinceOf(token) : null
    const recent =
      how.kind === 'updated-since' &&
      known &&
      known.pages > 1 &&
      options.now() - known.fullAt < how.fullEveryMinutes * 60_000
        ? known
        : null
    const back =
      how.kind === 'updated-since' && recent?.since
        ? new Date(Date.parse(recent.since) - how.overlapSeconds * 1000).toISOString()
        : undefined
    const more = how.kind === 'updated-since' ? { [how.param]: back } : {}
    let at: string | null = cursor
    let first: string | null = null
    let newest = recent?.since ?? ''
    const seen = new Set<string>()
    const startedAt = options.now()
    for (;;) {
      const { json, raws, next } = await pageAt(vars, at, more)
      if (next !== null && seen.has(next))
        throw new ServiceError('service-error', `${client.host} lists its pages in a circle.`)
      if (next !== null) seen.add(next)
      // The first page's token: what changes while we turn pages is seen again next time.
      if (how.kind === 'token') first ??= textAt(json, how.first) || null
      newest = latest(raws, newest)
      const page = emptyPage(!recent)
      sort(raws, collection, ctx, page)
      const total = Number(textAt(json, list.total))
      page.total = list.total && Number.isFinite(total) && !partOf(collection) ? total : null
      page.cursor = next
      if (next === null)
        page.token =
          how.kind === 'token'
            ? cursor === null
              ? first
              : null
            : how.kind === 'updated-since'
              ? JSON.stringify({
                  since: newest,
                  fullAt: recent?.fullAt ?? startedAt,
                  pages: recent?.pages ?? (cursor === null ? seen.size + 1 : 2),
                } satisfies Since)
              : 'listed'
      yield page
      if (next === null) return
      at = next
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
    if (write.again && !description.fields.uid) {
      // The answer to an earlier try was lost; our marker tells whether it took effect.
      for await (const page of delta(collection, null)) {
        const made = page.items.find(i => i.item.uid === task.uid)
        if (made) return { kind: 'done', item: made, ours: false }
      }
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
    const { status, ...rest } = write.patch as TaskPatch
    const vars: Variables = {
      ...revisionVars(write.revision),
      id: write.remoteId,
      collection: write.collection,
    }
    let last: Awaited<ReturnType<typeof run>> | null = null
    const own = statusOperation(status)
    const known = status === undefined ? undefined : statusToWrite(ctx.meaning, status)
    if (status !== undefined && known === undefined && !(status === 'completed' && operations.complete))
      return noSuchStatus(status)
    const inFields: TaskPatch = status !== undefined && !own ? { ...rest, status } : rest
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

  const revisionIn = (raw: unknown): string =>
    description.item.revision === null ? contentRevision(raw) : textAt(raw, description.item.revision)
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
  const failed = (error: unknown): WriteResult => {
    if (!(error instanceof ServiceError)) throw error
    return error.trouble === 'refused' ? { kind: 'refused', reason: error.message } : { kind: 'retry', error }
  }

  const discover = async (): Promise<Account> => {
    const account = await must(client.send(description.account.request, {}))
    const me = textAt(account.json, description.account.id)
    if (!me) throw new ServiceError('not-this-protocol', client.notThis())
    const told = description.account.zone ? textAt(account.json, description.account.zone) : ''
    if (description.clock) {
      const at = Date.parse(textAt(account.json, description.clock.at))
      if (!Number.isNaN(at)) client.skew = at - options.now()
    }
    collectionsRead = null
    const raws = await readCollections()
    const { people } = description
    const everybody = people ? listAt((await must(client.send(people.request, {}))).json, people.items) : []
    const { name: named } = description.account
    const name = named === undefined ? (credentials.user ?? '') : textAt(account.json, named)
    return {
      name,
      zone: told && isKnownZone(told) ? told : null,
      collections: raws.flatMap(raw => collectionsIn(raw)),
      people: people
        ? everybody.map(p => ({
            id: textAt(p, people.id),
            name: textAt(p, people.name),
            email: (people.email && textAt(p, people.email)) || null,
            me: textAt(p, people.id) === me,
          }))
        : named === undefined
          ? []
          : [{ id: me, name, email: null, me: true }],
    }
  }

  const collectionsIn = (raw: unknown): FoundCollection[] => {
    const { id, name, colour, count, parent, allowed, split } = description.collections
    const remoteId = textAt(raw, id)
    const told = Number(textAt(raw, count))
    const terms = termsOf(description, raw)
    const whole: FoundCollection = {
      remoteId,
      name: textAt(raw, name) || remoteId,
      colour: /^#[0-9a-f]{6}$/i.exec(textAt(raw, colour))?.[0] ?? null,
      holds: 'task',
      writable: capabilities.can.change || capabilities.can.complete,
      count: count && Number.isFinite(told) && textAt(raw, count) !== '' ? told : null,
      parent: textAt(raw, parent) || null,
      whyNot:
        allowed && valueAt(raw, allowed) === false
          ? `${description.name} shows it to this account, but gives it no right to read it.`
          : null,
      terms,
    }
    if (!split) return [whole]
    const status = terms.roles.find(r => r.role === 'status')?.suggested
    const parts = columnsOf(description, raw)
      .filter(c => split.kinds.includes(c.kind) && c.id !== status)
      .flatMap(c =>
        listAt(c.raw, split.words).map((w): FoundCollection => ({
          ...whole,
          remoteId: `${remoteId}#${c.id}=${textAt(w, split.id)}`,
          name: `${whole.name}: ${textAt(w, split.name)}`,
          colour: null,
          count: null,
          parent: remoteId,
        })),
      )
    return [whole, ...parts]
  }

  const { notifications } = description
  return {
    capabilities,
    discover,
    delta: (collection, token, o = {}) => delta(collection, token, o.cursor ?? null),
    read,
    // Ids are kept when an item moves, or the uid is looked for in every list.
    async locate(uid) {
      const found: RemoteItem[] = []
      for (const raw of await readCollections()) {
        if (description.collections.allowed && valueAt(raw, description.collections.allowed) === false)
          continue
        for await (const page of delta(textAt(raw, description.collections.id), null))
          found.push(...page.items.filter(i => i.item.uid === uid))
      }
      return found
    },
    async write(writes) {
      try {
        const all = await together(writes)
        if (all) return all
      } catch (error) {
        return writes.map(() => failed(error))
      }
      const results: WriteResult[] = []
      for (const w of writes) results.push(await one(w).catch(failed))
      return results
    },
    subscribe: notifications
      ? async (callback, secret) => {
          await client.send(notifications.request, { callback, secret })
        }
      : null,
    notified(body, headers, secret) {
      if (!notifications) return null
      const { header, prefix } = notifications.signature
      const given = Buffer.from(headers(header) ?? '')
      const wanted = Buffer.from(prefix + createHmac('sha256', secret).update(body).digest('hex'))
      if (given.length !== wanted.length || !timingSafeEqual(given, wanted)) return null
      try {
        return notifications.item === undefined ? '' : textAt(JSON.parse(body), notifications.item)
      } catch {
        return ''
      }
    },
    interpret(collection, original) {
      const shape = shapes.get(collection)
      const meaning = options.meanings[collection] ?? shape?.meaning
      if (!meaning) return null
      const ctx: FieldContext = { description, zone: home, meaning, words: shape?.words ?? new Map() }
      const result = itemOf(JSON.parse(original), collection, ctx)
      return result.kind === 'found'
        ? { item: result.item.item, unknownStatus: result.item.unknownStatus ?? null }
        : null
    },
    makeCollection: null,
    skew: () => client.skew,
    restMs: () => null,
  }
}

function putCell(fields: Record<string, unknown>, pointer: string, word: string): void {
  const parts = pointer.slice(1).split('/')
  let at = fields
  for (const part of parts.slice(0, -1)) at = (at[part] ??= {}) as Record<string, unknown>
  const last = parts.at(-1)
  if (last) at[last] = word
}
