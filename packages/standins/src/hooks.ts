import { createHmac, randomUUID } from 'node:crypto'
import type { FaultSwitch } from './faults.ts'

/** Somebody who wants to be told of changes. */
export interface Hook {
  id: string
  url: string
  secret: string
}

/**
 * Signed notifications: HMAC-SHA256 of the body, at least once and in no particular order. Every fifth is
 * sent twice and every third late, because that is what receivers must live with.
 */
export class Notifier {
  private count = 0

  constructor(
    private readonly faults: FaultSwitch,
    private readonly hooks: () => Hook[],
    private readonly header: string,
  ) {}

  private async send(hook: Hook, body: string, tries = 3): Promise<void> {
    const signature = `sha256=${createHmac('sha256', hook.secret).update(body).digest('hex')}`
    try {
      const answer = await fetch(hook.url, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', [this.header]: signature },
        body,
        signal: AbortSignal.timeout(3000),
      })
      if (answer.ok || answer.status === 410) return
    } catch {
      // Nobody listens there now; the tries below and the receiver's own polling make up for it.
    }
    if (tries > 1) this.later(2000, hook, body, tries - 1)
  }

  private later(ms: number, hook: Hook, body: string, tries?: number): void {
    setTimeout(() => {
      this.send(hook, body, tries).catch((error: unknown) => console.error('a notification', error))
    }, ms)
  }

  tell(what: object): void {
    const { notifications } = this.faults.current
    if (notifications === 'lost') return
    this.count++
    const body = JSON.stringify({
      id: randomUUID(),
      at: new Date(this.faults.clock()).toISOString(),
      ...what,
    })
    const late =
      notifications === 'reordered' ? (this.count % 2 === 0 ? 10 : 900) : this.count % 3 === 0 ? 150 : 10
    const copies = notifications === 'repeated' ? 3 : this.count % 5 === 0 ? 2 : 1
    for (const hook of this.hooks())
      for (let copy = 0; copy < copies; copy++) this.later(late + copy * 50, hook, body)
  }
}

/** Keeps one hook for each address; null for a body that names none. */
export function hookFrom(body: unknown, kept: Hook[]): { hook: Hook; hooks: Hook[] } | null {
  const { url, secret } = (body ?? {}) as { url?: unknown; secret?: unknown }
  if (typeof url !== 'string' || typeof secret !== 'string') return null
  const hook = { id: randomUUID(), url, secret }
  return { hook, hooks: [...kept.filter(h => h.url !== url), hook] }
}
