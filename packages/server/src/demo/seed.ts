import { randomUUID } from 'node:crypto'
import {
  type Account,
  askConsent,
  type ConnectionInput,
  noTerms,
  shippedServices,
  takeConsent,
} from '@loom/connectors'
import { defaultSettings, everything, type RuleSettings, type Scope } from '@loom/core'
import { hashPassword } from '../access/sessions.ts'
import { keepConnection, subscribe, tryService, type Wanted, wantedOf } from '../connecting/keep.ts'
import type { Sql, Tx } from '../data/database.ts'
import type { Context } from '../context/context.ts'
import { SLOT_MS } from '../sync/log/health.ts'
import { anyWorkspace, addWorkspace } from '../data/repositories/workspaces.ts'
import { addMember } from '../data/repositories/members.ts'
import { makeFailing, syncedLongAgo, addRuleThatIsOn, addFirstVersions } from '../data/repositories/demo.ts'
import { addLooks } from '../data/repositories/looks.ts'
import { collectionNamed } from '../data/repositories/collections.ts'
import { json as asJson } from '../data/json.ts'

/** The demo: Quillmere Garden, connected to the stand-ins, with one rule on. All of it is made up. */

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

interface Planned {
  name: string
  owner: string
  input: ConnectionInput
  /** Names of the collections that take part; all without it. */
  only?: string[]
  scope?: Partial<Scope>
}

const json = (
  id: string,
  address: string,
  credentials: Extract<ConnectionInput, { kind: 'http-json' }>['credentials'],
): ConnectionInput => {
  const found = shippedServices().find(s => s.id === id)
  if (!found) throw new Error(`no description ${id}`)
  return { kind: 'http-json', address, description: found.description, credentials }
}
const dav = (address: string, user: string, password: string): ConnectionInput => ({
  kind: 'caldav',
  address,
  credentials: { user, password },
})

/** Consent given in the name of a demo member, on the stand-in's own page. */
async function boardInput(ctx: Context, standins: string): Promise<ConnectionInput> {
  const bare = json('repairs-board', `${standins}/board`, {})
  if (bare.kind !== 'http-json' || bare.description.signIn.kind !== 'oauth2')
    throw new Error('no consent page')
  const { signIn } = bare.description
  const redirect = `${ctx.publicUrl}/consent`
  const asked = await askConsent(signIn, { address: bare.address, alsoAt: [] }, redirect)
  const q = new URL(asked.url).searchParams
  const form = new URLSearchParams({
    redirect_uri: redirect,
    state: asked.state,
    code_challenge: q.get('code_challenge') ?? '',
    account: '1007',
    answer: 'yes',
  })
  const answer = await fetch(`${standins}/board/oauth/authorize`, {
    method: 'POST',
    body: form,
    redirect: 'manual',
  })
  const back = new URL(answer.headers.get('location') ?? '')
  const tokens = await takeConsent(
    signIn,
    { address: bare.address, alsoAt: [] },
    redirect,
    back,
    asked,
    ctx.http,
    Date.now(),
  )
  return { ...bare, credentials: { tokens } }
}

async function plannedFor(ctx: Context, standins: string, size: 'small' | 'whole'): Promise<Planned[]> {
  const small: Planned[] = [
    { name: 'Garden Calendars', owner: 'Ines Varga', input: dav(standins, 'ines', 'moonflower') },
    {
      name: 'Bench List',
      owner: 'Ines Varga',
      input: json('bench-list', `${standins}/bench`, { key: 'bench-key-ines' }),
    },
  ]
  if (size === 'small') return small
  const open: Partial<Scope> = { filter: [{ field: 'status', is: ['needs-action', 'in-process'] }] }
  return [
    ...small,
    {
      name: 'Garden Calendars of Tobias',
      owner: 'Tobias Lund',
      input: dav(standins, 'tobias', 'glasshouse'),
    },
    {
      name: 'School Visits',
      owner: 'Mei Okoro',
      input: { kind: 'ics-feed', address: `${standins}/visits/spring-term.ics`, credentials: {} },
    },
    { name: 'Repairs Board', owner: 'Ines Varga', input: await boardInput(ctx, standins), scope: open },
    {
      name: 'Plant Register',
      owner: 'Anouk Thapa',
      input: json('plant-register', `${standins}/register`, { key: 'register-key-anouk' }),
      only: ['Plant work: Check', 'Plant work: Label'],
      scope: open,
    },
    {
      name: 'Gatehouse Mail',
      owner: 'Ines Varga',
      input: json('gatehouse-mail', `${standins}/mail`, { user: 'gatehouse', password: 'lower-gate' }),
      only: ['Gate'],
    },
  ]
}

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
      await addMember(sql, { ...m, id, workspaceId, passwordHash })
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
      kept.push(await keepConnection(ctx, sql, workspaceId, input, account, wanted))
    }
    await makeRule(ctx, sql, workspaceId, size === 'whole' ? 'ask' : 'newest')
    if (size === 'whole') {
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
    zone: null,
    people: [],
    collections: [
      {
        remoteId: 'feed',
        name: 'Autumn visits',
        colour: null,
        holds: 'event',
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
  const id = await keepConnection(ctx, sql, workspaceId, input, account, wanted)
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

async function makeRule(
  ctx: Context,
  sql: Sql,
  workspaceId: string,
  conflict: RuleSettings['conflict'],
): Promise<void> {
  const named = (name: string) =>
    collectionNamed(sql, {
      workspaceId,
      name,
    })
  const [a, b] = [await named('Festival'), await named('Festival work')]
  if (!a || !b) return
  await addRuleThatIsOn(sql, {
    id: randomUUID(),
    workspaceId,
    a: a.id,
    b: b.id,
    settings: asJson({ ...defaultSettings, conflict }),
    now: ctx.now(),
  })
  await addFirstVersions(sql, { workspaceId })
}
