import type { Api } from '@loom/server/api'
import { type ClientResponse, hc } from 'hono/client'

/** The typed client: request and answer have the shapes the server declares. */
export const api = hc<Api>('/api')

/** A request that was not fulfilled; the message is a sentence for people. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message)
  }
}

type Listener = () => void
const onSignedOut = new Set<Listener>()
export const whenSignedOut = (listener: Listener): void => void onSignedOut.add(listener)

type Good<R> = R extends ClientResponse<infer T, infer S, string> ? (S extends 200 | 201 ? T : never) : never

/** The body of a good answer; throws Refused with the reason otherwise. */
export async function answer<R extends ClientResponse<unknown, number, string>>(
  request: Promise<R>,
): Promise<Good<R>> {
  let response: R
  try {
    response = await request
  } catch {
    throw new Refused('The server cannot be reached. What you did is still here; try again in a moment.', 0)
  }
  if (response.ok) return (await response.json()) as Good<R>
  // A session that ran out is signed in again over what is on the screen, which stays as it is.
  if (response.status === 401) for (const listener of onSignedOut) listener()
  const body = (await response.json().catch(() => ({}))) as { reason?: string }
  throw new Refused(body.reason ?? 'That was not understood. Check what you typed.', response.status)
}
