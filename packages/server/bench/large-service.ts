import { createHmac } from 'node:crypto'
import { createServer, type IncomingMessage } from 'node:http'
import { json } from 'node:stream/consumers'
import type { AddressInfo } from 'node:net'
import type { ServiceDescription } from '@loom/connectors'

/** A task manager that throttles nobody and holds as much as is wanted, to measure what we add to it. */

interface Row {
  id: string
  list: string
  name: string
  text: string
  state: 'open' | 'shut'
  day: string | null
  rev: number
}

const PAGE = 500

/** `paging` makes a listing whole pages; `token` names the changes since. */
export const largeDescription = (address: string): ServiceDescription =>
  ({
    format: 'amber-loom.service/1',
    name: 'Large',
    about: '',
    address,
    signIn: { kind: 'bearer', label: 'Key' },
    account: { request: { path: '/me' }, id: '/id', name: '/name' },
    collections: { request: { path: '/lists' }, items: '/lists', id: '/id', name: '/name' },
    list: {
      request: { path: '/rows', query: { list: '{collection}' } },
      items: '/rows',
      total: '/all',
      paging: { kind: 'cursor', next: '/next', param: 'at' },
    },
    delta: {
      kind: 'token',
      first: '/token',
      request: { path: '/changes', query: { list: '{collection}', since: '{since}' } },
      items: '/rows',
      next: '/token',
      refused: [410],
    },
    item: { request: { path: '/rows/{id}' }, at: '/row', id: '/id', collection: '/list', revision: '/rev' },
    fields: {
      summary: { as: 'text', at: '/name' },
      description: { as: 'text', at: '/text' },
      status: { as: 'status', at: '/state' },
      due: { as: 'day', at: '/day' },
    },
    statuses: [
      { id: 'open', name: 'Open', means: 'needs-action' },
      { id: 'shut', name: 'Shut', means: 'completed' },
    ],
    operations: {
      change: { steps: [{ method: 'PATCH', path: '/rows/{id}', body: { '...': '{fields}' }, item: '/row' }] },
    },
    notifications: {
      request: { method: 'POST', path: '/hooks', body: { url: '{callback}', secret: '{secret}' } },
      signature: { header: 'Large-Signature', prefix: '' },
    },
  }) as unknown as ServiceDescription

export class LargeService {
  readonly rows: Row[] = []
  private seq = 0
  private readonly log: string[] = []
  latencyMs = 0
  base = ''
  private hook: { url: string; secret: string } | null = null
  private readonly server = createServer((q, a) => {
    const url = new URL(q.url ?? '/', this.base)
    if (url.pathname === '/hooks') void this.keepHook(q)
    const answer = JSON.stringify(this.answer(url))
    setTimeout(() => a.writeHead(200, { 'Content-Type': 'application/json' }).end(answer), this.latencyMs)
  })

  constructor(count: number) {
    for (let i = 0; i < count; i++)
      this.rows.push({
        id: `r${i}`,
        list: 'l',
        name: `Water bed ${i} before the evening`,
        text: i % 3 ? '' : 'With the long hose; the short one leaks at the tap by the lower gate.',
        // Most of what a team ever wrote down is done: one in twenty is open, and lies on the shelf.
        state: i % 20 ? 'shut' : 'open',
        day: i % 2 ? new Date(Date.UTC(2026, 0, 1 + (i % 365))).toISOString().slice(0, 10) : null,
        rev: 1,
      })
  }

  async listen(): Promise<this> {
    await new Promise<void>(resolve => this.server.listen(0, '127.0.0.1', () => resolve()))
    this.base = `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`
    return this
  }
  close(): void {
    this.server.closeAllConnections()
    this.server.close()
  }

  change(count: number, word: string): void {
    for (const row of this.rows.slice(0, count)) {
      row.name = `${word} ${row.id}`
      row.rev++
      this.seq++
      this.log.push(row.id)
    }
  }

  private async keepHook(q: IncomingMessage): Promise<void> {
    this.hook = (await json(q)) as { url: string; secret: string }
  }
  /** Tells whoever asked to be told; what of is for them to find out. */
  async notify(): Promise<void> {
    if (!this.hook) throw new Error('nobody asked to be told')
    const body = JSON.stringify({ at: Date.now() })
    const signature = createHmac('sha256', this.hook.secret).update(body).digest('hex')
    const answer = await fetch(this.hook.url, {
      method: 'POST',
      headers: { 'Large-Signature': signature },
      body,
    })
    if (answer.status >= 300) throw new Error(`the notification was answered with ${answer.status}`)
  }

  private answer({ pathname, searchParams: q }: URL): object {
    if (pathname === '/me') return { id: 'me', name: 'Somebody' }
    if (pathname === '/lists') return { lists: [{ id: 'l', name: 'Everything' }] }
    if (pathname === '/changes') {
      const ids = new Set(this.log.slice(Number(q.get('since'))))
      return { rows: this.rows.slice(0, ids.size).filter(r => ids.has(r.id)), token: String(this.seq) }
    }
    const at = Number(q.get('at') ?? 0)
    const next = at + PAGE < this.rows.length ? String(at + PAGE) : null
    return { rows: this.rows.slice(at, at + PAGE), all: this.rows.length, next, token: String(this.seq) }
  }
}
