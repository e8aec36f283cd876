import { askConsent, type ConnectionInput, shippedServices, takeConsent } from '@loom/connectors'
import type { Scope } from '@loom/core'
import type { Context } from '../context/context.ts'

/** The accounts that the demo connects, at the stand-ins. */

export interface Planned {
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
    { redirect, back, kept: asked },
    ctx.http,
    Date.now(),
  )
  return { ...bare, credentials: { tokens } }
}

export async function plannedFor(
  ctx: Context,
  standins: string,
  size: 'small' | 'whole',
): Promise<Planned[]> {
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
    {
      name: 'Gate Chat',
      owner: 'Ines Varga',
      input: json('gate-chat', `${standins}/chat`, { key: 'chat-key-ines' }),
      only: ['Gate house'],
    },
    {
      name: 'Garden Calendars of Rafael',
      owner: 'Rafael Quint',
      input: dav(standins, 'rafael', 'lantern-pole'),
    },
    {
      name: 'Bench List of Rafael',
      owner: 'Rafael Quint',
      input: json('bench-list', `${standins}/bench`, { key: 'bench-key-rafael' }),
    },
    {
      name: 'Bench List of Mei',
      owner: 'Mei Okoro',
      input: json('bench-list', `${standins}/bench`, { key: 'bench-key-mei' }),
    },
    {
      name: 'Garden Calendars of Mei',
      owner: 'Mei Okoro',
      input: dav(standins, 'mei', 'chalkboard'),
      only: ['Lessons', 'Teaching deadlines'],
    },
    { name: 'Garden Calendars of Anouk', owner: 'Anouk Thapa', input: dav(standins, 'anouk', 'monsoon') },
    { name: 'Festival Desk', owner: 'Ines Varga', input: dav(standins, 'desk', 'night-route') },
  ]
}
