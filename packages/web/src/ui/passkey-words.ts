import { browserSupportsWebAuthn } from '@simplewebauthn/browser'
import { Refused } from '../api/client.ts'

/** Browsers keep passkeys for names only. */
export const mayUsePasskeys = (): boolean =>
  !/^[\d.]+$|:/.test(window.location.hostname) && browserSupportsWebAuthn()

/** What the browser refuses, or its person cancels, said in a sentence. */
export async function unlessCancelled<T>(ask: () => Promise<T>): Promise<T> {
  try {
    return await ask()
  } catch (error) {
    const name = error instanceof Error ? error.name : ''
    if (name === 'InvalidStateError') throw new Refused('This device has a passkey for you already.', 0)
    if (name === 'SecurityError')
      throw new Refused('Browsers keep passkeys only for pages opened by their name, over https.', 0)
    throw new Refused('No passkey was given. Nothing has changed.', 0)
  }
}
