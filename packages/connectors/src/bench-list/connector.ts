import { createHmac, timingSafeEqual } from 'node:crypto'
import { inZone, type Task, type TaskPatch, toMinute, type When } from '@loom/core'
import { z } from 'zod'
import {
  type Capabilities,
  type Connector,
  type Delta,
  type ReadResult,
  type RemoteItem,
  type RemoteWrite,
  ServiceError,
  type WriteResult,
} from '../connector.ts'
import { addressOf, mustBeUsable, type Outbound } from '../outbound.ts'

/** The Bench List service: JSON over HTTP, an access key, hours told in the account's zone. */

const RemoteTask = z.object({
  id: z.string().min(1),
  list: z.string(),
  ref: z.string().nullish(),
  text: z.string(),
  details: z.string().default(''),
  day: z.iso.date().nullable(),
  hour: z
    .string()
    .regex(/^([01]\d|2[0-3]):[0-5]\d$/)
    .nullable(),
  finish_by: z.iso.date().nullish(),
  weight: z.number().int().min(1).max(5),
  marks: z.array(z.string()).default([]),
  ticked: z.boolean(),
  ticked_at: z.string().nullish(),
  rev: z.string(),
  touched: z.string().nullish(),
  added: z.string().nullish(),
})
type RemoteTask = z.infer<typeof RemoteTask>

const Lists = z.object({
  lists: z.array(
    z.object({ id: z.string(), name: z.string(), colour: z.string().nullish(), open: z.number().nullish() }),
  ),
})
const Page = z.object({ tasks: z.array(z.unknown()), next: z.string().nullable(), token: z.string() })
const Changes = z.object({ tasks: z.array(z.unknown()), left: z.array(z.string()), token: z.string() })
const Results = z.object({
  results: z.array(
    z.object({ status: z.number(), task: z.unknown().optional(), error: z.string().optional() }),
  ),
})
const Me = z.object({ name: z.string(), zone: z.string() })

const BATCH = 20
const MAX_TEXT = 120

/** Weight 5 presses most; RFC 5545's priority 1 is the highest. */
const priorityOf = (weight: number): number => 11 - 2 * weight

function taskOf(remote: RemoteTask, zone: string): Task {
  const start: When | null = !remote.day
    ? null
    : remote.hour
      ? { kind: 'zoned', local: `${remote.day}T${remote.hour}:00`, zone }
      : { kind: 'date', date: remote.day }
  return {
    kind: 'task',
    uid: remote.ref ?? `bench-${remote.id}`,
    summary: remote.text,
    description: remote.details,
    status: remote.ticked ? 'completed' : 'needs-action',
    serviceStatus: remote.ticked ? 'ticked' : 'open',
    priority: priorityOf(remote.weight),
    start,
    due: remote.finish_by ? { kind: 'date', date: remote.finish_by } : null,
    estimatedDuration: null,
    completed: remote.ticked_at ?? null,
    categories: remote.marks,
    url: null,
    created: remote.added ?? null,
    lastModified: remote.touched ?? null,
  }
}

function fieldsOf(patch: TaskPatch, zone: string): Record<string, unknown> {
  const set: Record<string, unknown> = {}
  if (patch.summary !== undefined) set.text = patch.summary
  if (patch.description !== undefined) set.details = patch.description
  if (patch.status !== undefined) set.ticked = patch.status === 'completed'
  if (patch.start !== undefined) {
    const start = patch.start && toMinute(inZone(patch.start, zone, zone))
    set.day = !start ? null : start.kind === 'date' ? start.date : start.local.slice(0, 10)
    set.hour = !start || start.kind === 'date' ? null : start.local.slice(11, 16)
  }
  return set
}

export const BENCH_LIST: Capabilities = {
  holds: 'task',
  canHold: { estimate: false, location: false, due: true },
  summaryMaxLength: MAX_TEXT,
  datePrecision: 'minute',
  preconditions: true,
  notifications: true,
  batch: BATCH,
}

export function benchList(
  address: string,
  key: string,
  zone: string | null,
  http: Outbound,
  signal?: AbortSignal,
): Connector {
  const base = addressOf(address).replace(/\/+$/, '')
  const { host } = new URL(base)
  const home = zone ?? 'UTC'

  const call = async <T>(
    method: string,
    path: string,
    shape: z.ZodType<T>,
    body?: unknown,
  ): Promise<T | null> => {
    const answer = await http({
      method,
      url: `${base}/v1${path}`,
      headers: {
        Authorization: `Bearer ${key}`,
        Accept: 'application/json',
        'Content-Type': 'application/json',
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      ...(signal ? { signal } : {}),
    })
    mustBeUsable(answer, host)
    if (answer.status === 404 || answer.status === 410) return null
    const json = parsed(answer.text)
    if (answer.status >= 400)
      throw new ServiceError('refused', `${host} refused it (status ${answer.status}).`)
    const result = json === undefined ? null : shape.safeParse(json)
    if (result?.success) return result.data
    if (/^\s*</.test(answer.text))
      throw new ServiceError('not-this-protocol', `${host} answers with a web page, not as Bench List.`)
    throw new ServiceError('not-this-protocol', `${host} answers, but not as Bench List.`)
  }

  const remoteItem = (raw: unknown): ReadResult => {
    const result = RemoteTask.safeParse(raw)
    const original = JSON.stringify(raw)
    if (result.success) {
      const t = result.data
      const item: RemoteItem = {
        remoteId: t.id,
        collectionId: t.list,
        revision: t.rev,
        item: taskOf(t, home),
        original,
      }
      return { kind: 'found', item }
    }
    const { id, rev } = (raw ?? {}) as { id?: unknown; rev?: unknown }
    const issue = result.error.issues[0]
    const reason = `Its ${issue?.path.join('.') || 'form'} is not what it should be: ${issue?.message ?? ''}`
    return { kind: 'problem', problem: { remoteId: String(id), revision: String(rev), reason, original } }
  }

  const missing = (): ServiceError => new ServiceError('missing', 'The list is no longer there.')

  const sort = (raw: unknown[], out: Delta): void => {
    for (const r of raw.map(remoteItem))
      if (r.kind === 'found') out.items.push(r.item)
      else if (r.kind === 'problem') out.problems.push(r.problem)
  }

  const listing = async (list: string): Promise<Delta> => {
    const out: Delta = { items: [], problems: [], left: [], token: null, full: true }
    let after = ''
    for (;;) {
      const page = await call(
        'GET',
        `/lists/${encodeURIComponent(list)}/tasks?after=${encodeURIComponent(after)}`,
        Page,
      )
      if (!page) throw missing()
      sort(page.tasks, out)
      // The first page's token: what changes while we turn pages is seen again next time.
      out.token ??= page.token
      if (!page.next) return out
      after = page.next
    }
  }

  const delta = async (list: string, token: string | null): Promise<Delta> => {
    if (token === null) return listing(list)
    const path = `/lists/${encodeURIComponent(list)}/changes?since=${encodeURIComponent(token)}`
    const changes = await call('GET', path, Changes)
    if (!changes) return listing(list)
    const out: Delta = { items: [], problems: [], left: changes.left, token: changes.token, full: false }
    sort(changes.tasks, out)
    return out
  }

  const changeOf = (write: RemoteWrite): object => {
    if (write.op === 'create')
      return {
        op: 'add',
        list: write.collection,
        ref: write.item.uid,
        set: fieldsOf(write.item as Task, home),
      }
    if (write.op === 'delete') return { op: 'remove', id: write.remoteId, rev: write.revision }
    return {
      op: 'change',
      id: write.remoteId,
      rev: write.revision,
      set: fieldsOf(write.patch as TaskPatch, home),
    }
  }

  const resultOf = (
    write: RemoteWrite,
    result: { status: number; task?: unknown; error?: string } | undefined,
  ): WriteResult => {
    if (!result)
      return { kind: 'retry', error: new ServiceError('service-error', `${host} left a change unanswered.`) }
    if (result.status === 412) return { kind: 'conflict' }
    if (result.status === 404) return { kind: 'absent' }
    if (result.status === 204) return { kind: 'done', item: null, ours: true }
    if (result.status >= 300)
      return { kind: 'refused', reason: `${host} refused it: ${result.error ?? result.status}.` }
    const read = remoteItem(result.task)
    if (read.kind !== 'found')
      return { kind: 'refused', reason: 'The service made something unreadable of it.' }
    // 200 for an addition: this reference was there already, from an earlier try.
    return { kind: 'done', item: read.item, ours: !(write.op === 'create' && result.status === 200) }
  }

  return {
    capabilities: BENCH_LIST,
    async discover() {
      const me = await call('GET', '/me', Me)
      const lists = await call('GET', '/lists', Lists)
      if (!me || !lists)
        throw new ServiceError('not-this-protocol', `${host} answers, but not as Bench List.`)
      const collections = lists.lists.map(l => ({
        remoteId: l.id,
        name: l.name,
        colour: l.colour ?? null,
        holds: 'task' as const,
        writable: true,
        count: l.open ?? null,
      }))
      return { name: me.name, zone: me.zone, collections }
    },
    delta,
    async read(_collection, remoteId) {
      const raw = await call('GET', `/tasks/${encodeURIComponent(remoteId)}`, z.unknown())
      return raw === null ? { kind: 'absent' } : remoteItem(raw)
    },
    // Ids are kept when a task moves, so asking by id has found it already.
    locate: async () => [],
    async write(writes) {
      try {
        const answer = await call('POST', '/batch', Results, { changes: writes.map(changeOf) })
        return writes.map((w, i) => resultOf(w, answer?.results[i]))
      } catch (error) {
        if (!(error instanceof ServiceError)) throw error
        const { trouble, message } = error
        return writes.map(() =>
          trouble === 'refused' ? { kind: 'refused', reason: message } : { kind: 'retry', error },
        )
      }
    },
    async subscribe(url, secret) {
      await call('POST', '/hooks', z.object({ id: z.string() }), { url, secret })
    },
    isAuthentic(body, headers, secret) {
      const given = Buffer.from(headers('bench-signature') ?? '')
      const wanted = Buffer.from(`sha256=${createHmac('sha256', secret).update(body).digest('hex')}`)
      return given.length === wanted.length && timingSafeEqual(given, wanted)
    },
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}
