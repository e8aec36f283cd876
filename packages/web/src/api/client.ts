import type { Api } from '@loom/server/api'
import { type ClientResponse, hc } from 'hono/client'
import { onlyOnce } from './only-once.ts'

/** The typed client: request and answer have the shapes the server declares. */
export const api = hc<Api>('/api', { fetch: onlyOnce((input, init) => fetch(input, init)) })

/** A request that was not fulfilled; the message is a sentence for people. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** What else the server said. */
    readonly said: Readonly<Record<string, unknown>> = {},
  ) {
    super(message)
  }
}

/** Asks for the session back, or for more than a password in it; null where there was none to lose. */
type SignInAgain = (why: 'expired' | 'owes') => Promise<void> | null
let signInAgain: SignInAgain = () => null
export const whenSignedOut = (ask: SignInAgain): void => void (signInAgain = ask)

type Good<R> = R extends ClientResponse<infer T, infer S, string> ? (S extends 200 | 201 ? T : never) : never

/**
 * The body of a successful answer; otherwise throws Refused with the reason. If the session has expired, the
 * request waits until the person has signed in again and is then sent once more. So it does where their workspace
 * wants more than a password.
 */
export async function answer<R extends ClientResponse<unknown, number, string>>(
  ask: () => Promise<R>,
): Promise<Good<R>> {
  let response: R
  try {
    response = await ask()
  } catch {
    throw new Refused('The server cannot be reached. What you did is still here; try again in a moment.', 0)
  }
  if (response.ok) return (await response.json()) as Good<R>
  const body = (await response.json().catch(() => ({}))) as { reason?: string } & Record<string, unknown>
  const again =
    response.status === 401 ? signInAgain('expired') : body.needs === 'second' ? signInAgain('owes') : null
  if (again) {
    await again
    return answer(ask)
  }
  throw new Refused(body.reason ?? 'That was not understood. Check what you typed.', response.status, body)
}
