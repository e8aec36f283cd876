import { randomUUID } from 'node:crypto'
import {
  type Account,
  capabilitiesOf,
  connect,
  type ConnectionInput,
  type FoundCollection,
  Patience,
  ServiceError,
} from '@loom/connectors'
import { BOUNDARY_VERSION, everything, type Level, type Meaning, ofOwn, type Scope } from '@loom/core'
import { newToken, seal, unseal } from '../access/secrets.ts'
import type { Sql, Tx } from '../data/database.ts'
import { connectorOf, type Context } from '../context/context.ts'
import { addCollection, countCollections } from '../data/repositories/collections.ts'
import { addConnection, connectionById, markSubscribed } from '../data/repositories/connections.ts'
import { addPickOnce, putPerson } from '../data/repositories/people.ts'
import { grantToEverybody } from '../data/repositories/grants.ts'
import { membersOfWorkspace } from '../data/repositories/members.ts'
import { json } from '../data/json.ts'

/** Trying services, and keeping what was tried as a connection. */

/** The limit for trying a service while a person waits. */
const TRY_MS = 20_000
/** And for each request of it: some servers list their calendars slowly. */
const TRY_REQUEST_MS = 9_000

export const DYES = ['#4E6B35', '#1C6C77', '#75498A', '#8C6A00', '#A43E2A', '#44566C', '#A23B66']

/** Tests an address and its credentials; nothing is kept. Throws ServiceError. */
export async function tryService(ctx: Context, input: ConnectionInput): Promise<Account> {
  const signal = AbortSignal.timeout(TRY_MS)
  const http = new Patience(TRY_REQUEST_MS).through(ctx.http)
  return await connect(input, { http, now: ctx.now, zone: null, signal }).discover()
}

export interface Wanted {
  name: string
  /** The member whose account it is. */
  ownerId: string | null
  takesPart: string[]
  scope: Scope
  meanings: Record<string, Meaning>
  /** Person at the service → member. */
  people: Record<string, string | null>
  dyes: Record<string, string>
  picks: string[]
  /** What everybody in the workspace sees of it. */
  colleagues: Level
}

export const wantedOf = (name: string, takesPart: string[]): Wanted => ({
  name,
  ownerId: null,
  takesPart,
  scope: everything,
  meanings: {},
  people: {},
  dyes: {},
  picks: [],
  colleagues: 'change',
})

/** A list that takes part as a whole takes its parts with it: they are not read a second time. */
export const withoutParts = (takesPart: string[]): string[] =>
  takesPart.filter(
    id => !takesPart.some(other => id !== other && id.startsWith(`${other}#`) && !id.endsWith('#tasks')),
  )

export async function putCollection(
  sql: Sql,
  at: { workspaceId: string; connectionId: string },
  found: FoundCollection,
  set: { takesPart: boolean; dye: string; meaning: Meaning | null; ownerId?: string; colleagues: Level },
): Promise<void> {
  const id = randomUUID()
  await addCollection(sql, {
    ...at,
    id,
    remoteId: found.remoteId,
    name: found.name.slice(0, 200),
    dye: set.dye,
    itemKind: found.itemKind,
    writable: found.writable ? 1 : 0,
    takesPart: set.takesPart && !found.whyNot ? 1 : 0,
    terms: json(found.terms),
    meaning: set.meaning ? json(set.meaning) : null,
    parent: found.parent,
    whyNot: found.whyNot,
    ownerId: set.ownerId ?? null,
  })
  if (set.colleagues !== 'nothing')
    await grantToEverybody(sql, { workspaceId: at.workspaceId, collectionId: id, level: set.colleagues })
}

/** Keeps a connection and all collections found; only the chosen ones take part. */
export async function connectService(
  ctx: Context,
  sql: Tx,
  workspaceId: string,
  input: ConnectionInput,
  account: Account,
  wanted: Wanted,
): Promise<string> {
  const connectionId = randomUUID()
  await addConnection(sql, {
    id: connectionId,
    workspaceId,
    kind: input.kind,
    name: wanted.name,
    address: input.address,
    credentials: seal(input.credentials, ctx.secret),
    account: account.name.slice(0, 200),
    subject: account.subject,
    zone: account.zone,
    hookSecret: capabilitiesOf(input).notifications ? seal(newToken(), ctx.secret) : null,
    description: input.kind === 'http-json' ? json(input.description) : null,
    scope: json(wanted.scope),
    ownerId: wanted.ownerId,
    discoveredAt: Date.now(),
    readBy: BOUNDARY_VERSION,
  })
  const chosen = new Set(withoutParts(wanted.takesPart))
  const used = await countCollections(sql, {
    workspaceId,
  })
  for (const [i, found] of account.collections.entries())
    await putCollection(sql, { workspaceId, connectionId }, found, {
      takesPart: chosen.has(found.remoteId),
      meaning: ofOwn(wanted.meanings, found.remoteId) ?? null,
      // What is taken in later is asked for then.
      colleagues: chosen.has(found.remoteId) ? wanted.colleagues : 'nothing',
      dye:
        wanted.dyes[found.remoteId] ??
        DYES.find(d => d === found.colour) ??
        DYES[((used?.n ?? 0) + i) % DYES.length] ??
        '#44566C',
    })
  await putPeople(sql, workspaceId, connectionId, account, wanted.people)
  for (const remoteId of wanted.picks)
    await addPickOnce(sql, {
      connectionId,
      remoteId,
      workspaceId,
    })
  sql.tell(workspaceId, { topics: ['connections', 'cloth'] })
  return connectionId
}

/** Who is who: what a person has said stays; others are matched by mail address, then by full name. */
export async function putPeople(
  sql: Sql,
  workspaceId: string,
  connectionId: string,
  account: Account,
  said: Record<string, string | null>,
): Promise<void> {
  const members = await membersOf(sql, workspaceId)
  for (const p of account.people.slice(0, 2000))
    await putPerson(sql, {
      connectionId,
      workspaceId,
      remoteId: p.id,
      name: p.name.slice(0, 200),
      email: p.email,
      me: p.me ? 1 : 0,
      memberId: p.id in said ? (said[p.id] ?? null) : matchOf(p, members),
    })
}

export const membersOf = (sql: Sql, workspaceId: string) => membersOfWorkspace(sql, { workspaceId })

/** Whether everybody that is named belongs to the workspace. */
export async function areMembers(
  sql: Sql,
  workspaceId: string,
  { ownerId, people }: Pick<Wanted, 'ownerId' | 'people'>,
): Promise<boolean> {
  const members = new Set((await membersOf(sql, workspaceId)).map(m => m.id))
  return [ownerId, ...Object.values(people)].every(id => id === null || members.has(id))
}

const same = (x: string, y: string): boolean => x.trim().toLowerCase() === y.trim().toLowerCase()

/** The member who most likely is this person of a service; null without a hint. */
export function matchOf(
  person: { name: string; email: string | null },
  members: { id: string; name: string; email: string }[],
): string | null {
  const byMail = members.find(m => person.email !== null && same(m.email, person.email))
  const byName = members.filter(m => same(m.name, person.name))
  return byMail?.id ?? (byName.length === 1 ? (byName[0]?.id ?? null) : null)
}

/** Asks the service to tell us of changes; without it we ask, only less promptly. */
export async function subscribe(ctx: Context, connectionId: string): Promise<void> {
  const row = await connectionById(ctx.db, { id: connectionId })
  if (!row?.hook_secret) return
  try {
    const connector = await connectorOf(ctx, row)
    const secret = String(unseal(row.hook_secret, ctx.secret))
    await connector.subscribe?.(`${ctx.publicUrl}/hooks/${row.id}`, secret)
    await markSubscribed(ctx.db, {
      id: connectionId,
      now: ctx.now(),
    })
  } catch (error) {
    ctx.log.warn(
      { connectionId, trouble: error instanceof ServiceError ? error.trouble : 'unknown' },
      'no notifications',
    )
  }
}
