import { randomUUID } from 'node:crypto'
import {
  type Account,
  askConsent,
  connect,
  ConnectionInput,
  type Connector,
  type Meanings,
  ServiceError,
  takeConsent,
} from '@loom/connectors'
import { hashOf, seal, unseal } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { tryService } from './connect-service.ts'
import { descriptionFor } from './services.ts'
import {
  addDraft,
  draftById,
  draftByConsent,
  endConsent,
  putSignedIn,
  putDraftInput,
  deleteDraft,
  type DraftRow,
} from '../data/repositories/drafts.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { parsed, json } from '../data/json.ts'

/**
 * A connection being made. It is stored on the server, sealed, so that a person can visit a consent page and
 * return, even the next day.
 */
export interface Draft {
  id: string
  workspaceId: string
  service: string
  input: ConnectionInput
  account: Account | null
}

const KEEP_MS = 86_400_000

export interface SignInGiven {
  service: string
  address: string
  user?: string | undefined
  password?: string | undefined
  key?: string | undefined
  /** Other servers that the person has agreed to, as origins. */
  alsoAt?: string[] | undefined
}

/** The input to reach the service; null if there is no such service. */
export async function inputFrom(
  ctx: Context,
  workspaceId: string,
  given: SignInGiven,
): Promise<ConnectionInput | null> {
  const { service, address, user, password, key, alsoAt } = given
  const credentials = {
    ...(user && { user }),
    ...(password && { password }),
    ...(key && { key }),
    ...(alsoAt?.length && { alsoAt }),
  }
  if (service === 'caldav' || service === 'ics-feed') {
    const parsed = ConnectionInput.safeParse({ kind: service, address, credentials })
    return parsed.success ? parsed.data : null
  }
  const description = await descriptionFor(ctx.db, workspaceId, service)
  return description && ConnectionInput.parse({ kind: 'http-json', address, description, credentials })
}

export type Begun =
  { kind: 'account'; draft: string; account: Account } | { kind: 'consent'; draft: string; url: string }

const placeOf = (input: ConnectionInput): { address: string; alsoAt: string[] } => ({
  address: input.address,
  alsoAt: 'alsoAt' in input.credentials ? (input.credentials.alsoAt ?? []) : [],
})

const redirectOf = (ctx: Context): string => `${ctx.publicUrl}/consent`

/** Nobody is sent to a consent page of an address where this service is not. Throws ServiceError. */
async function mustBeThere(ctx: Context, input: ConnectionInput): Promise<void> {
  try {
    await tryService(ctx, input)
  } catch (error) {
    // It asks for a sign-in: that is what the consent page is for.
    const isThere = error instanceof ServiceError && ['signed-out', 'refused'].includes(error.trouble)
    if (!isThere) throw error
  }
}

/** Tries what was given, or says where to go for consent. Throws ServiceError. */
export async function beginDraft(
  ctx: Context,
  member: Member,
  service: string,
  input: ConnectionInput,
): Promise<Begun> {
  const id = randomUUID()
  const signIn = input.kind === 'http-json' ? input.description.signIn : null
  if (signIn?.kind === 'oauth2') await mustBeThere(ctx, input)
  const asked = signIn?.kind === 'oauth2' ? await askConsent(signIn, placeOf(input), redirectOf(ctx)) : null
  const account = asked ? null : await tryService(ctx, input)
  await addDraft(ctx.db, {
    id,
    workspaceId: member.workspaceId,
    memberId: member.id,
    service,
    input: seal(input, ctx.secret),
    consent: asked && seal({ state: asked.state, verifier: asked.verifier }, ctx.secret),
    state: asked && hashOf(asked.state),
    account: account && json(account),
    until: Date.now() + KEEP_MS,
  })
  if (asked) return { kind: 'consent', draft: id, url: asked.url }
  if (!account) throw new Error('neither an account nor a consent page')
  return { kind: 'account', draft: id, account }
}

function draftOf(ctx: Context, row: DraftRow): Draft {
  return {
    id: row.id,
    workspaceId: row.workspace_id,
    service: row.service,
    input: ConnectionInput.parse(unseal(row.input, ctx.secret)),
    account: row.account ? parsed(row.account) : null,
  }
}

export async function loadDraft(ctx: Context, member: Member, id: string): Promise<Draft | null> {
  const row = await draftById(ctx.db, { id, memberId: member.id, now: Date.now() })
  return row && draftOf(ctx, row)
}

/** The return from a consent page. Returns its draft, and the reason if it failed. */
export async function concludeConsent(
  ctx: Context,
  member: Member,
  query: URLSearchParams,
): Promise<{ draft: string; reason: string | null } | null> {
  const row = await draftByConsent(ctx.db, {
    state: hashOf(query.get('state') ?? ''),
    memberId: member.id,
  })
  if (!row?.consent) return null
  const { input } = draftOf(ctx, row)
  const signIn = input.kind === 'http-json' ? input.description.signIn : null
  if (input.kind !== 'http-json' || signIn?.kind !== 'oauth2') return null
  const kept = unseal(row.consent, ctx.secret) as { state: string; verifier: string }
  // A state is good for one return.
  await endConsent(ctx.db, { id: row.id })
  try {
    const redirect = redirectOf(ctx)
    const back = new URL(`${redirect}?${query.toString()}`)
    const tokens = await takeConsent(signIn, placeOf(input), { redirect, back, kept }, ctx.http, Date.now())
    const signedIn: ConnectionInput = { ...input, credentials: { ...input.credentials, tokens } }
    const account = await tryService(ctx, signedIn)
    await putSignedIn(ctx.db, {
      id: row.id,
      input: seal(signedIn, ctx.secret),
      account: json(account),
    })
    return { draft: row.id, reason: null }
  } catch (error) {
    if (!(error instanceof ServiceError)) throw error
    return { draft: row.id, reason: error.message }
  }
}

export function connectorOfDraft(ctx: Context, draft: Draft, meanings: Meanings): Connector {
  const { http, now } = ctx
  return connect(draft.input, {
    http,
    now,
    zone: draft.account?.zone ?? null,
    meanings,
    onTokens: async tokens => {
      const input = { ...draft.input, credentials: { ...draft.input.credentials, tokens } }
      await putDraftInput(ctx.db, {
        id: draft.id,
        input: seal(input, ctx.secret),
      })
    },
  })
}

export async function dropDraft(ctx: Context, id: string): Promise<void> {
  await deleteDraft(ctx.db, { id })
}
