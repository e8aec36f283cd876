import { esc } from './page.ts'
import type { Faults, FaultSwitch } from './faults.ts'

/** The part of every stand-in's page on which its troubles are switched on and off. */

const CHOICES: [string, string, Faults][] = [
  ['well', 'Everything works', {}],
  ['slow', 'Answers after two seconds', { latencyMs: 2000 }],
  ['busy', '429, come back in 20 seconds', { status: 429, retryAfter: 20 }],
  ['broken', '503 to everything', { status: 503 }],
  ['drop-before', 'Breaks off before anything happens', { drop: 'before' }],
  ['drop-after', 'Breaks off after it has happened', { drop: 'after' }],
  ['html', 'A maintenance page instead of data', { html: true }],
  ['hang', 'Never answers', { hang: true }],
  ['expired', 'The sign-in has expired', { expired: true }],
  ['stale', 'Tokens for changes are not taken any more', { staleToken: true }],
  ['incomplete', 'Listings leave out every third item', { incomplete: true }],
  ['late', 'Listings are half a minute behind', { lagMs: 30_000 }],
  ['empty', 'Everything seems to be gone', { empty: true }],
  ['skew', 'Its clock is seven minutes fast', { skewMs: 420_000 }],
  ['lost', 'Notifications are lost', { notifications: 'lost' }],
  ['repeated', 'Notifications come three times', { notifications: 'repeated' }],
  ['reordered', 'Notifications come late and in the wrong order', { notifications: 'reordered' }],
]

/** Troubles that only some services can have. */
const ONLY: Record<string, string[]> = {
  stale: ['garden', 'bench'],
  late: ['bench'],
  empty: ['visits'],
  incomplete: ['garden', 'bench', 'board', 'register', 'mail'],
  lost: ['bench', 'board'],
  repeated: ['bench', 'board'],
  reordered: ['bench', 'board'],
}

export const faultsNamed = (name: string): Faults | undefined => CHOICES.find(([n]) => n === name)?.[2]

export function faultForm(service: string, faults: FaultSwitch): string {
  const now = JSON.stringify(faults.current)
  const options = CHOICES.filter(([name]) => ONLY[name]?.includes(service) ?? true).map(
    ([name, words, f]) =>
      `<option value="${name}"${JSON.stringify(f) === now ? ' selected' : ''}>${esc(words)}</option>`,
  )
  return `<h2>Trouble</h2><form method="post" action="/control/${service}/trouble">
    <select name="trouble" aria-label="Trouble">${options.join('')}</select> <button>Switch it on</button></form>`
}
