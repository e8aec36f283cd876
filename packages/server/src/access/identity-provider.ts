import {
  allowInsecureRequests,
  authorizationCodeGrant,
  AuthorizationResponseError,
  buildAuthorizationUrl,
  calculatePKCECodeChallenge,
  ClientError,
  type Configuration,
  discovery,
  None,
  randomNonce,
  randomPKCECodeVerifier,
  randomState,
  ResponseBodyError,
} from 'openid-client'
import { z } from 'zod'

/** Signing in with an identity provider that whoever runs the server has chosen (OpenID Connect Core 1.0). */

export interface ProviderTerms {
  /** As its discovery says it. */
  issuer: string
  clientId: string
  /** Null for a public client. */
  clientSecret: string | null
  /** What it is called on the button. */
  name: string
  /** Whoever has a verified mail address in one of these joins without an invitation. */
  domains: readonly string[]
}

/** What is kept, sealed, while somebody is there. */
export const Underway = z.object({ state: z.string(), nonce: z.string(), verifier: z.string() })
export type Underway = z.infer<typeof Underway>

const Claims = z.object({
  iss: z.string(),
  sub: z.string().min(1).max(255),
  name: z.string().trim().max(200).optional(),
  email: z.email().max(320).optional(),
  email_verified: z.union([z.boolean(), z.literal('true'), z.literal('false')]).optional(),
})

export interface Identified {
  issuer: string
  subject: string
  name: string | null
  /** In lower case, and only if the provider has verified it. */
  email: string | null
}

const ANSWER_S = 10
const HOUR_MS = 3_600_000

export class IdentityProvider {
  private known: { config: Promise<Configuration>; until: number } | null = null

  constructor(
    readonly terms: ProviderTerms,
    private readonly redirect: string,
  ) {}

  /** Asked once in an hour; after a failure, the next time. */
  private async config(): Promise<Configuration> {
    if (this.known && this.known.until > Date.now()) return this.known.config
    const { issuer, clientId, clientSecret } = this.terms
    const config = discovery(
      new URL(issuer),
      clientId,
      clientSecret ?? undefined,
      clientSecret ? undefined : None(),
      // Plain http is for a provider on this machine: whoever runs the server has named it.
      { timeout: ANSWER_S, execute: issuer.startsWith('http:') ? [allowInsecureRequests] : [] },
    )
    this.known = { config, until: Date.now() + HOUR_MS }
    config.catch(() => (this.known = null))
    return config
  }

  async begin(): Promise<{ url: string; underway: Underway }> {
    const underway = { state: randomState(), nonce: randomNonce(), verifier: randomPKCECodeVerifier() }
    const url = buildAuthorizationUrl(await this.config(), {
      redirect_uri: this.redirect,
      scope: 'openid email profile',
      state: underway.state,
      nonce: underway.nonce,
      code_challenge: await calculatePKCECodeChallenge(underway.verifier),
      code_challenge_method: 'S256',
    })
    return { url: url.href, underway }
  }

  /** Null where the provider, or whoever was there, says no, or what comes back is not what was asked for. */
  async back(query: URLSearchParams, { state, nonce, verifier }: Underway): Promise<Identified | null> {
    const here = new URL(this.redirect)
    here.search = query.toString()
    try {
      const tokens = await authorizationCodeGrant(await this.config(), here, {
        expectedState: state,
        expectedNonce: nonce,
        pkceCodeVerifier: verifier,
        idTokenExpected: true,
      })
      const claims = Claims.safeParse(tokens.claims())
      if (!claims.success) return null
      const { iss, sub, name, email, email_verified: verified } = claims.data
      return {
        issuer: iss,
        subject: sub,
        name: name || null,
        email: email !== undefined && (verified === true || verified === 'true') ? email.toLowerCase() : null,
      }
    } catch (error) {
      if (
        error instanceof AuthorizationResponseError ||
        error instanceof ResponseBodyError ||
        error instanceof ClientError
      )
        return null
      throw error
    }
  }
}
