import { z } from 'zod'
import { BENCH_LIST, benchList } from './bench-list/connector.ts'
import { CALDAV, caldav } from './caldav/connector.ts'
import type { Capabilities, Connector } from './connector.ts'
import type { Outbound } from './outbound.ts'

export * from './connector.ts'
export { type Outbound, outbound } from './outbound.ts'

/** Which services can be connected, and what each wants to sign in. */
export const ConnectionInput = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('caldav'),
    address: z.string().trim().min(1).max(500),
    credentials: z.object({ user: z.string().trim().min(1).max(200), password: z.string().min(1).max(500) }),
  }),
  z.object({
    kind: z.literal('bench-list'),
    address: z.string().trim().min(1).max(500),
    credentials: z.object({ key: z.string().trim().min(1).max(500) }),
  }),
])
export type ConnectionInput = z.infer<typeof ConnectionInput>

export interface ConnectOptions {
  http: Outbound
  now: () => number
  /** The account's zone, once it is known. */
  zone: string | null
  signal?: AbortSignal
}

export function connect(input: ConnectionInput, options: ConnectOptions): Connector {
  const { http, now, zone, signal } = options
  return input.kind === 'caldav'
    ? caldav(input.address, input.credentials, http, now, signal)
    : benchList(input.address, input.credentials.key, zone, http, signal)
}

/** What a kind of service can do, known before it is asked. */
export const CAPABILITIES: Record<ConnectionInput['kind'], Capabilities> = {
  caldav: CALDAV,
  'bench-list': BENCH_LIST,
}
