import { z } from 'zod'
import { within } from './bounds.ts'
import { CALDAV, caldav } from './caldav/connector.ts'
import type { Capabilities, Connector, Meanings } from './connector.ts'
import { withDates } from './dates.ts'
import { capabilitiesOf as jsonCapabilities } from './http-json/capabilities.ts'
import { httpJson } from './http-json/connector.ts'
import { ServiceDescription } from './http-json/description.ts'
import type { OAuthTokens } from './http-json/oauth.ts'
import { ICS_FEED, icsFeed } from './ics-feed/connector.ts'
import type { Outbound } from './outbound.ts'
import type { Pace } from './pace.ts'

export * from './connector.ts'
export { within } from './bounds.ts'
export { ServiceDescription, readDescription } from './http-json/description.ts'
export { askConsent, takeConsent, type OAuthTokens } from './http-json/oauth.ts'
export { conform, type Conformance } from './http-json/conform.ts'
export { estimateStep, unsupportedFields as lacksIn } from './http-json/unsupported-fields.ts'
export { shippedServices } from './services.ts'
export { addressOf, type Outbound, outbound } from './outbound.ts'
export { Pace } from './pace.ts'
export { Patience } from './patience.ts'

const Address = z.string().trim().min(1).max(500)
const Tokens = z.object({
  access: z.string(),
  refresh: z.string().nullable(),
  expiresAt: z.number().nullable(),
})

/** Other servers of the same service, which the person agreed to by name; as origins. */
const AlsoAt = z
  .array(z.url({ protocol: /^https?$/ }).max(300))
  .max(5)
  .optional()

/** Which services can be connected, and what each wants to sign in. */
export const ConnectionInput = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('caldav'),
    address: Address,
    credentials: z.object({
      user: z.string().trim().min(1).max(200),
      // Some servers know accounts without one.
      password: z.string().max(500),
      alsoAt: AlsoAt,
    }),
  }),
  z.object({ kind: z.literal('ics-feed'), address: Address, credentials: z.object({}) }),
  z.object({
    kind: z.literal('http-json'),
    address: Address,
    description: ServiceDescription,
    credentials: z.object({
      key: z.string().trim().max(500).optional(),
      user: z.string().trim().max(200).optional(),
      password: z.string().max(500).optional(),
      tokens: Tokens.optional(),
      alsoAt: AlsoAt,
    }),
  }),
])
export type ConnectionInput = z.infer<typeof ConnectionInput>

export interface ConnectOptions {
  http: Outbound
  now: () => number
  /** The account's zone, once it is known. */
  zone: string | null
  signal?: AbortSignal
  /** What the collections' own words mean; without it, what the service suggests. */
  meanings?: Meanings
  pace?: Pace | null
  onTokens?: (tokens: OAuthTokens) => Promise<void>
}

export const connect = (input: ConnectionInput, options: ConnectOptions): Connector =>
  within(withDates(unbounded(input, options), options.meanings ?? {}))

function unbounded(input: ConnectionInput, options: ConnectOptions): Connector {
  const { http, now, zone, signal, meanings = {}, pace = null, onTokens } = options
  switch (input.kind) {
    case 'caldav':
      return caldav(input.address, input.credentials, http, now, signal)
    case 'ics-feed':
      return icsFeed(input.address, http, signal)
    case 'http-json':
      return httpJson(
        input.description,
        input.address,
        { ...input.credentials },
        {
          http,
          now,
          zone,
          meanings,
          pace,
          ...(signal ? { signal } : {}),
          ...(onTokens ? { onTokens } : {}),
        },
      )
  }
}

/** What a service can do, known before it is asked. */
export function capabilitiesOf(
  input: Pick<ConnectionInput, 'kind'> & { description?: ServiceDescription },
): Capabilities {
  if (input.kind === 'http-json' && input.description) return jsonCapabilities(input.description)
  return input.kind === 'caldav' ? CALDAV : ICS_FEED
}
export { accountSubject } from './account-subject.ts'
