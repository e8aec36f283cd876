import { randomUUID } from 'node:crypto'
import { isIP } from 'node:net'
import {
  generateAuthenticationOptions,
  generateRegistrationOptions,
  verifyAuthenticationResponse,
  verifyRegistrationResponse,
} from '@simplewebauthn/server'
import { isOfDatabase } from '../data/database-errors.ts'
import type { Database } from '../data/database.ts'
import { addEntryLink, takeEntryLink } from '../data/repositories/entry-links.ts'
import {
  addPasskey,
  countPasskeyUse,
  passkeysOfUser,
  passkeyWithHash,
} from '../data/repositories/passkeys.ts'
import { hashOf } from './secrets.ts'

/**
 * Signing in without a password (WebAuthn Level 3). A challenge can be answered once, within five minutes, by whichever
 * server; its hash is kept beside the entry links.
 */

const CHALLENGE_MS = 5 * 60_000
const MOST = 20

type Authentication = Parameters<typeof verifyAuthenticationResponse>[0]['response']
type Registration = Parameters<typeof verifyRegistrationResponse>[0]['response']

/** Where the page is: a passkey belongs to the name of its host. */
export interface Site {
  origin: string
  host: string
}

/** Null where the page was reached by a number: browsers keep passkeys for names only. */
export function siteOf(requestUrl: string, publicUrl: string): Site | null {
  const { hostname, origin } = new URL(requestUrl)
  const ours = new URL(publicUrl)
  // Behind a proxy we are asked by another scheme than people use.
  const site =
    hostname === ours.hostname ? { origin: ours.origin, host: hostname } : { origin, host: hostname }
  return isIP(site.host.replace(/^\[|\]$/g, '')) === 0 ? site : null
}

/** The library throws at what it cannot verify. What our database says is no answer of a passkey. */
function notVerified(error: unknown): { verified: false } {
  if (isOfDatabase(error)) throw error
  return { verified: false }
}

export class Passkeys {
  constructor(private readonly db: Database) {}

  private async challenged(challenge: string, userId: string | null): Promise<void> {
    const now = Date.now()
    await addEntryLink(this.db, {
      token_hash: hashOf(challenge),
      id: randomUUID(),
      purpose: 'passkey',
      workspace_id: null,
      user_id: userId,
      email: null,
      role: null,
      made_by: null,
      made_at: now,
      expires_at: now + CHALLENGE_MS,
    })
  }
  private readonly answered = async (challenge: string): Promise<boolean> =>
    (await takeEntryLink(this.db, { hash: hashOf(challenge), now: Date.now() })) === 1

  /** What the browser asks its person to make. */
  async toMake(site: Site, user: { id: string; email: string; name: string }) {
    const known = await passkeysOfUser(this.db, { userId: user.id })
    if (known.length >= MOST) return null
    const { extensions: _, ...options } = await generateRegistrationOptions({
      rpName: 'Amber Loom',
      rpID: site.host,
      userName: user.email,
      userDisplayName: user.name,
      userID: new Uint8Array(Buffer.from(user.id, 'utf8')),
      excludeCredentials: known.map(k => ({ id: k.credential_id })),
      authenticatorSelection: { residentKey: 'required', userVerification: 'preferred' },
    })
    await this.challenged(options.challenge, user.id)
    return options
  }

  /** Whether it was kept. */
  async make(site: Site, userId: string, name: string, response: Registration): Promise<boolean> {
    const { verified, registrationInfo } = await verifyRegistrationResponse({
      response,
      expectedChallenge: this.answered,
      expectedOrigin: site.origin,
      expectedRPID: site.host,
      requireUserVerification: false,
    }).catch((error: unknown) => ({ ...notVerified(error), registrationInfo: undefined }))
    if (!verified || !registrationInfo) return false
    const { credential } = registrationInfo
    await addPasskey(this.db, {
      id: randomUUID(),
      credential_hash: hashOf(credential.id),
      credential_id: credential.id,
      user_id: userId,
      public_key: Buffer.from(credential.publicKey).toString('base64url'),
      counter: credential.counter,
      transports: (credential.transports ?? []).join(' ').slice(0, 200),
      name,
      made_at: Date.now(),
      used_at: null,
    })
    return true
  }

  async toUse(site: Site) {
    const { extensions: _, ...options } = await generateAuthenticationOptions({
      rpID: site.host,
      userVerification: 'preferred',
    })
    await this.challenged(options.challenge, null)
    return options
  }

  /** The user whose passkey answered; null where it is not known, or the answer is not right. */
  async userOf(site: Site, response: Authentication): Promise<string | null> {
    const known = await passkeyWithHash(this.db, { hash: hashOf(response.id) })
    if (!known) return null
    const { verified, authenticationInfo } = await verifyAuthenticationResponse({
      response,
      expectedChallenge: this.answered,
      expectedOrigin: site.origin,
      expectedRPID: site.host,
      requireUserVerification: false,
      credential: {
        id: known.credential_id,
        publicKey: new Uint8Array(Buffer.from(known.public_key, 'base64url')),
        counter: known.counter,
      },
    }).catch((error: unknown) => ({ ...notVerified(error), authenticationInfo: null }))
    if (!verified || !authenticationInfo) return null
    const { newCounter } = authenticationInfo
    const used = await countPasskeyUse(this.db, { id: known.id, counter: newCounter, now: Date.now() })
    return used === 1 ? known.user_id : null
  }
}
