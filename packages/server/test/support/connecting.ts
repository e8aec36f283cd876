import type { Terms } from '@loom/core'
import { Client, until, type World } from './world.ts'

/** Connecting a service as somebody would: sign in, say what comes in, keep it. */

export interface Found {
  id: string
  already: string | null
  account: {
    name: string
    collections: {
      remoteId: string
      name: string
      itemKind: 'task' | 'event'
      parent: string | null
      whyNot: string | null
      terms: Terms
    }[]
    people: { id: string; name: string; me: boolean; memberId: string | null }[]
  }
  members: { id: string; name: string }[]
}

export interface Form {
  name: string
  takesPart: string[]
  ownerId: string | null
  scope: { by: 'sentence' | 'picked'; future: boolean; filter: object[]; notes: boolean }
  meanings: Record<string, object>
  people: Record<string, string | null>
  dyes: Record<string, string>
  picks: string[]
}

export const GIVEN = {
  bench: { service: 'bench-list', at: '/bench', key: 'bench-key-ines' },
  register: { service: 'plant-register', at: '/register', key: 'register-key-anouk' },
  mail: { service: 'gatehouse-mail', at: '/mail', user: 'gatehouse', password: 'lower-gate' },
  chat: { service: 'gate-chat', at: '/chat', key: 'chat-key-ines' },
  garden: { service: 'caldav', at: '', user: 'tobias', password: 'glasshouse' },
  visits: { service: 'ics-feed', at: '/visits/spring-term.ics' },
} as const

export async function draftOf(w: World, id: string): Promise<Found> {
  return (await w.client.call('GET', `/connecting/drafts/${id}`)).body
}

export async function begin(w: World, service: keyof typeof GIVEN, change: object = {}): Promise<Found> {
  const { at, ...given } = GIVEN[service]
  const answer = await w.client.call('POST', '/connecting/drafts', {
    address: w.standins + at,
    ...given,
    ...change,
  })
  if (answer.status !== 201) throw new Error(answer.body.reason)
  return draftOf(w, answer.body.draft)
}

/** Goes to Repairs Board's consent page, answers there, and comes back. Returns where that leads to. */
export async function consentPage(
  w: World,
  url: string,
  account: number,
  answer: 'yes' | 'no' = 'yes',
): Promise<string> {
  const page = await (await fetch(url)).text()
  const hidden = [...page.matchAll(/type="hidden" name="(\w+)" value="([^"]*)"/g)].map(
    ([, name, value]): [string, string] => [name ?? '', (value ?? '').replace(/&amp;/g, '&')],
  )
  const form = new URLSearchParams([...hidden, ['account', String(account)], ['answer', answer]])
  const back = await fetch(`${w.standins}/board/oauth/authorize`, {
    method: 'POST',
    body: form,
    redirect: 'manual',
  })
  return back.headers.get('location') ?? ''
}

export async function beginBoard(w: World, account = 1007): Promise<Found> {
  const begun = await w.client.call('POST', '/connecting/drafts', {
    service: 'repairs-board',
    address: `${w.standins}/board`,
  })
  const back = await consentPage(w, begun.body.consent, account)
  const led = await w.client.visit(back)
  const draft = new URL(led, w.client.base).searchParams.get('draft')
  if (!draft) throw new Error(`no way back: ${led}`)
  return draftOf(w, draft)
}

/** Everything of it, unless said otherwise. */
export const formFor = (found: Found, change: Partial<Form> = {}): Form => ({
  name: found.account.name || 'A connection',
  takesPart: found.account.collections
    .filter(c => !c.whyNot && !c.remoteId.includes('='))
    .map(c => c.remoteId),
  ownerId: null,
  scope: { by: 'sentence', future: false, filter: [], notes: true },
  meanings: {},
  people: {},
  dyes: {},
  picks: [],
  ...change,
})

export async function keep(w: World, found: Found, change: Partial<Form> = {}): Promise<string> {
  const answer = await w.client.call('POST', `/connecting/drafts/${found.id}/keep`, formFor(found, change))
  if (answer.status !== 201) throw new Error(JSON.stringify(answer.body))
  return answer.body.id
}

export const connectionOf = async (w: World, id: string) =>
  (await w.client.call('GET', '/connections')).body.connections.find((c: { id: string }) => c.id === id)

/** Waits until all that takes part was read. */
export const readOnce = (w: World, id: string) =>
  until('everything was read once', async () => {
    const c = await connectionOf(w, id)
    return (
      c?.state === 'ok' &&
      c.lastOkAt !== null &&
      c.collections.every((k: { takesPart: boolean; syncedAt: unknown }) => !k.takesPart || k.syncedAt) &&
      c
    )
  })

/** Titles of what is in, from the file that anybody may take out. */
export async function titlesIn(w: World, connectionId: string): Promise<string[]> {
  const { collections } = await connectionOf(w, connectionId)
  const ids = collections.map((k: { id: string }) => k.id).join(',')
  const { body } = await w.client.call('GET', `/files/export?format=jscalendar&collections=${ids}`)
  return body.entries.map((e: { title: string }) => e.title).sort()
}

export const fresh = (w: World): Client => new Client(w.client.base)
