import { randomUUID } from 'node:crypto'
import { type Account, type ConnectionInput, noTerms } from '@loom/connectors'
import { everything } from '@loom/core'
import { hashPassword } from '../access/passwords.ts'
import {
  connectService,
  subscribe,
  tryService,
  type Wanted,
  wantedOf,
} from '../connecting/connect-service.ts'
import type { Sql, Tx } from '../data/database.ts'
import type { Context } from '../context/context.ts'
import { SLOT_MS } from '../sync/log/health.ts'
import { anyWorkspace, addWorkspace } from '../data/repositories/workspaces.ts'
import { addMember } from '../data/repositories/members.ts'
import { addUser } from '../data/repositories/users.ts'
import { makeFailing, syncedLongAgo } from '../data/repositories/demo.ts'
import { addLooks } from '../data/repositories/looks.ts'
import { type Planned, plannedFor } from './accounts.ts'
import { makeRules } from './rules.ts'
import { shareDemo } from './sharing.ts'

/** The demo: Quillmere Garden, connected to the stand-ins, with its rules on. All of it is made up. */

export const DEMO_PASSWORD = 'night-flowering'

const MEMBERS = [
  { name: 'Ines Varga', email: 'ines@quillmere.example', zone: 'Europe/Dublin' },
  { name: 'Tobias Lund', email: 'tobias@quillmere.example', zone: 'Europe/Dublin' },
  { name: 'Anouk Thapa', email: 'anouk@quillmere.example', zone: 'Asia/Kathmandu' },
]
const MORE_MEMBERS = [
  { name: 'Mei Okoro', email: 'mei@quillmere.example', zone: 'Europe/Dublin' },
  { name: 'Rafael Quint', email: 'rafael@quillmere.example', zone: 'Europe/Dublin' },
  { name: 'Bram Castelijn', email: 'bram@quillmere.example', zone: 'Europe/Dublin' },
]

/** Does nothing when there is a workspace already; returns whether it made one. */
export async function seedDemo(ctx: Context, standins: string, size: 'small' | 'whole'): Promise<boolean> {
  if (await anyWorkspace(ctx.db)) return false
  const accounts: { planned: Planned; account: Account }[] = []
  for (const planned of await plannedFor(ctx, standins, size))
    accounts.push({ planned, account: await tryService(ctx, planned.input) })
  const workspaceId = randomUUID()
  const passwordHash = await hashPassword(DEMO_PASSWORD)
  const connections = await ctx.db.commit(async sql => {
    await addWorkspace(sql, {
      id: workspaceId,
      name: 'Quillmere Garden',
      zone: 'Europe/Dublin',
    })
    const members = size === 'small' ? MEMBERS : [...MEMBERS, ...MORE_MEMBERS]
    const ids = new Map<string, string>()
    for (const m of members) {
      const id = randomUUID()
      ids.set(m.name, id)
      await addUser(sql, { id, email: m.email, passwordHash, now: ctx.now() })
      const role = m.name === 'Ines Varga' ? 'coordinator' : 'member'
      await addMember(sql, { ...m, id, workspaceId, userId: id, role, now: ctx.now() })
    }
    const kept: string[] = []
    for (const { planned, account } of accounts) {
      const { name, input, owner, only, scope } = planned
      const takesPart = account.collections
        .filter(c => !c.whyNot && (only ? only.includes(c.name) : !c.remoteId.includes('=')))
        .map(c => c.remoteId)
      const wanted: Wanted = {
        ...wantedOf(name, takesPart),
        ownerId: ids.get(owner) ?? null,
        scope: { ...everything, ...scope },
      }
      kept.push(await connectService(ctx, sql, workspaceId, input, account, wanted))
    }
    await makeRules(ctx, sql, workspaceId, size)
    if (size === 'whole') {
      await shareDemo(sql, workspaceId, ids)
      await makeFailingFeed(ctx, sql, workspaceId, standins)
      for (const [i, id] of kept.entries()) await makeYesterday(ctx, sql, workspaceId, id, i)
    }
    return kept
  })
  for (const id of connections) await subscribe(ctx, id)
  return true
}

/** Something that went wrong an hour ago, so that one sees how that is told. */
async function makeFailingFeed(ctx: Context, sql: Tx, workspaceId: string, standins: string): Promise<void> {
  const address = `${standins}/visits/autumn-term.ics`
  const anHourAgo = ctx.now() - 3_600_000
  const account: Account = {
    name: 'Autumn visits',
    subject: address,
    zone: null,
    people: [],
    collections: [
      {
        remoteId: 'feed',
        name: 'Autumn visits',
        colour: null,
        itemKind: 'event',
        writable: false,
        count: null,
        parent: null,
        whyNot: null,
        terms: noTerms,
      },
    ],
  }
  const input: ConnectionInput = { kind: 'ics-feed', address, credentials: {} }
  const wanted = wantedOf('Autumn Visits', ['feed'])
  const id = await connectService(ctx, sql, workspaceId, input, account, wanted)
  await makeFailing(sql, {
    id,
    at: anHourAgo,
    trouble: `${new URL(address).host} has trouble of its own (status 500).`,
    next: Date.now() + 40_000,
  })
  await syncedLongAgo(sql, { id, at: anHourAgo })
}

/** A day of passes before the demo began, so that the chart of a day has something to tell. */
async function makeYesterday(
  ctx: Context,
  sql: Sql,
  workspaceId: string,
  connectionId: string,
  nth: number,
): Promise<void> {
  const last = Math.floor(ctx.now() / SLOT_MS) - 1
  const rows = Array.from({ length: 140 }, (_, i) => {
    const slot = (last - i) * SLOT_MS
    const hour = new Date(slot).getUTCHours()
    // Always the same, and unlike the next one's.
    const chance = (salt: number): number => (((i + 7) * (nth + 3) * salt) % 97) / 97
    const awake = hour >= 7 && hour < 18
    const items = awake ? Math.floor(chance(31) ** 3 * 14) : chance(53) > 0.97 ? 1 : 0
    const writes = items > 2 ? Math.floor(items * chance(17) * 0.7) : 0
    const errors = chance(71) > 0.985 ? 2 : 0
    return [
      connectionId,
      slot,
      workspaceId,
      awake ? 90 : 12,
      items,
      writes,
      errors,
      Math.round(60 + chance(13) * 240 + errors * 900),
      writes > 0 ? Math.round(80 + chance(19) * 300) : 0,
    ]
  })
  await addLooks(sql, { rows })
}
