import * as oauth from 'oauth4webapi'
import { ServiceError } from '../connector.ts'
import { addressOf, type Outbound } from '../outbound.ts'
import { signInAddress } from './address.ts'
import type { ServiceDescription } from './description.ts'

/** OAuth 2.0 authorization code with PKCE and refresh (RFC 6749, RFC 7636), through the guarded client. */

export interface OAuthTokens {
  access: string
  refresh: string | null
  /** Epoch ms; null where the service does not say. */
  expiresAt: number | null
}

type OAuthSignIn = Extract<ServiceDescription['signIn'], { kind: 'oauth2' }>

/** Where an account is, and which other servers the person has agreed to. */
export interface SignInPlace {
  address: string
  alsoAt: readonly string[]
}

const serverOf = (signIn: OAuthSignIn, { address, alsoAt }: SignInPlace): oauth.AuthorizationServer => ({
  issuer: addressOf(address),
  authorization_endpoint: signInAddress(address, signIn.authorize, alsoAt),
  token_endpoint: signInAddress(address, signIn.token, alsoAt),
})

/** oauth4webapi speaks fetch; every request still goes through the one way out. */
const through = (http: Outbound) => ({
  [oauth.customFetch]: async (
    url: string,
    options: oauth.CustomFetchOptions<string, URLSearchParams>,
  ): Promise<Response> => {
    const answer = await http({
      method: options.method,
      url,
      headers: options.headers,
      body: options.body.toString(),
    })
    return new Response(answer.text, {
      status: answer.status,
      headers: { 'Content-Type': answer.header('content-type') ?? 'application/json' },
    })
  },
  // Which addresses may be spoken to without TLS is decided by the guarded client.
  [oauth.allowInsecureRequests]: true,
})

export interface Consent {
  /** Where the person is sent. */
  url: string
  state: string
  verifier: string
}

export async function askConsent(signIn: OAuthSignIn, at: SignInPlace, redirect: string): Promise<Consent> {
  const server = serverOf(signIn, at)
  const verifier = oauth.generateRandomCodeVerifier()
  const state = oauth.generateRandomState()
  const url = new URL(server.authorization_endpoint ?? at.address)
  url.searchParams.set('response_type', 'code')
  url.searchParams.set('client_id', signIn.clientId)
  url.searchParams.set('redirect_uri', redirect)
  url.searchParams.set('state', state)
  url.searchParams.set('code_challenge', await oauth.calculatePKCECodeChallenge(verifier))
  url.searchParams.set('code_challenge_method', 'S256')
  if (signIn.scope) url.searchParams.set('scope', signIn.scope)
  return { url: url.href, state, verifier }
}

const tokensOf = (answer: oauth.TokenEndpointResponse, now: number): OAuthTokens => ({
  access: answer.access_token,
  refresh: answer.refresh_token ?? null,
  expiresAt: answer.expires_in === undefined ? null : now + answer.expires_in * 1000,
})

async function inWords<T>(work: Promise<T>, words: string): Promise<T> {
  try {
    return await work
  } catch (error) {
    if (error instanceof ServiceError) throw error
    if (error instanceof Error && error.cause instanceof ServiceError) throw error.cause
    throw new ServiceError('signed-out', words)
  }
}

/** The return from the consent page, and what was stored when the person was sent there. */
export interface ConsentReturn {
  redirect: string
  back: URL
  kept: { state: string; verifier: string }
}

/** Exchanges what came back from the consent page. Throws ServiceError. */
export function takeConsent(
  signIn: OAuthSignIn,
  at: SignInPlace,
  { redirect, back, kept }: ConsentReturn,
  http: Outbound,
  now: number,
): Promise<OAuthTokens> {
  const work = async (): Promise<OAuthTokens> => {
    const server = serverOf(signIn, at)
    const client = { client_id: signIn.clientId }
    const params = oauth.validateAuthResponse(server, client, back, kept.state)
    const answer = await oauth.authorizationCodeGrantRequest(
      server,
      client,
      oauth.None(),
      params,
      redirect,
      kept.verifier,
      through(http),
    )
    return tokensOf(await oauth.processAuthorizationCodeResponse(server, client, answer), now)
  }
  return inWords(work(), 'Consent was not given, or it is too long ago. Sign in again.')
}

/** New tokens for old. Throws ServiceError `signed-out` when the service will not give any. */
export function refreshTokens(
  signIn: OAuthSignIn,
  at: SignInPlace,
  tokens: OAuthTokens,
  http: Outbound,
  now: number,
): Promise<OAuthTokens> {
  const { refresh } = tokens
  const { host } = new URL(addressOf(at.address))
  const words = `${host} no longer accepts this sign-in. Sign in again.`
  if (refresh === null) return Promise.reject(new ServiceError('signed-out', words))
  const work = async (): Promise<OAuthTokens> => {
    const server = serverOf(signIn, at)
    const client = { client_id: signIn.clientId }
    const answer = await oauth.refreshTokenGrantRequest(server, client, oauth.None(), refresh, through(http))
    if (answer.status >= 500)
      throw new ServiceError('service-error', `${host} has trouble of its own (status ${answer.status}).`)
    const fresh = tokensOf(await oauth.processRefreshTokenResponse(server, client, answer), now)
    return { ...fresh, refresh: fresh.refresh ?? refresh }
  }
  return inWords(work(), words)
}
