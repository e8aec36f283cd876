import { randomBytes } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { listen } from '@loom/standins'
import { whole } from '@loom/core'
import { readConfig } from '../../src/context/config.ts'
import { Database } from '../../src/data/database.ts'
import { type Running, startServer } from '../../src/server.ts'
import { trial } from '../../src/view/shared-cloth.ts'
import { fixedClock } from './clock.ts'
import { BenchSide } from './bench.ts'
import { BoardSide } from './board.ts'
import { GardenSide } from './garden.ts'
import { freePort } from '../../../../scripts/free-port.mjs'

export { weekDay } from './clock.ts'
export { freePort }

/** The product against a real MariaDB and the stand-ins, all in this process. */

/** The server that the test command started; a test never touches any other. */
export function databaseServer(): string {
  const url = process.env.TEST_DATABASE_URL
  if (!url) throw new Error('TEST_DATABASE_URL is not set: run the tests with npm test.')
  return url
}

export async function freshDatabase(): Promise<{ url: string; drop: () => Promise<void> }> {
  const name = `loom_t_${randomBytes(6).toString('hex')}`
  const admin = new Database(databaseServer())
  await admin.insert(`CREATE DATABASE ${name} CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin`)
  return {
    url: databaseServer().replace(/\/loom(?=\?|$)/, `/${name}`),
    drop: async () => {
      await admin.insert(`DROP DATABASE ${name}`)
      await admin.close()
    },
  }
}

/** Waits for what should become true; never for a length of time. Says what was last seen when it does not. */
export async function until<T>(
  what: string,
  look: () => Promise<T | false | null | undefined>,
  withinMs = 12_000,
): Promise<T> {
  const end = Date.now() + withinMs
  let trouble: unknown
  for (;;) {
    try {
      const seen = await look()
      if (seen) return seen
    } catch (error) {
      trouble = error
    }
    if (Date.now() > end) throw new Error(`It did not become true: ${what}`, { cause: trouble })
    await new Promise(resolve => setTimeout(resolve, 40))
  }
}

export class Client {
  constructor(
    readonly base: string,
    private cookie = '',
  ) {}

  get cookieNow(): string {
    return this.cookie
  }

  async call(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<{ status: number; body: any }> {
    const answer = await fetch(`${this.base}/api${path}`, {
      method,
      headers: { 'Content-Type': 'application/json', Origin: this.base, Cookie: this.cookie, ...headers },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    })
    const cookie = answer.headers.get('set-cookie')
    if (cookie) this.cookie = cookie.split(';')[0] ?? ''
    const given: any = await answer.json().catch(() => null)
    const isCloth = method === 'GET' && path.startsWith('/cloth?') && answer.ok
    return { status: answer.status, body: isCloth ? { ...given, items: given.items.map(whole) } : given }
  }

  /** A page that sends one on: returns where to. */
  async visit(address: string): Promise<string> {
    const answer = await fetch(new URL(address, this.base), {
      headers: { Cookie: this.cookie },
      redirect: 'manual',
    })
    return answer.headers.get('location') ?? ''
  }

  /** Somebody who has the Cloth open: services without notifications are then asked every second. */
  async watch(): Promise<() => void> {
    const leave = new AbortController()
    const answer = await fetch(`${this.base}/api/live`, {
      headers: { Cookie: this.cookie },
      signal: leave.signal,
    })
    void answer.text().catch(() => undefined)
    return () => leave.abort()
  }

  /** A session of its own, as a header. */
  async session(): Promise<string> {
    await this.signIn()
    return this.cookie
  }

  async signIn(email = 'ines@quillmere.example', password = 'night-flowering'): Promise<number> {
    return (await this.call('POST', '/session', { email, password })).status
  }
}

export interface World {
  standins: string
  garden: GardenSide
  bench: BenchSide
  board: BoardSide
  app: Running
  client: Client
  fault: (
    service: 'garden' | 'visits' | 'bench' | 'board' | 'register' | 'mail' | 'chat',
    faults: object,
  ) => Promise<void>
  /** Resolves once the service is being read, by a look that takes its time until its faults are set again. */
  whileBeingRead: (service: 'garden' | 'bench') => Promise<void>
  environment: Record<string, string>
  close: () => Promise<void>
}

export const SECRET = 'ab'.repeat(32)

export async function startWorld(
  options: {
    server?: boolean
    allow?: string[]
    size?: 'small' | 'whole'
    story?: boolean
    watched?: boolean
  } = {},
): Promise<World> {
  const database = await freshDatabase()
  const others = await listen(mkdtempSync(join(tmpdir(), 'loom-standins-')), 0, 0, options.size)
  const standins = `http://127.0.0.1:${others.port}`
  const port = await freePort()
  const environment = {
    LOOM_PORT: String(port),
    DATABASE_URL: database.url,
    LOOM_SECRET: SECRET,
    LOOM_ALLOW_HOSTS: [`127.0.0.1:${others.port}`, ...(options.allow ?? [])].join(','),
    LOOM_DEMO: standins,
    LOOM_DEMO_SIZE: options.size ?? 'small',
    LOOM_DEMO_STORY: options.story ? 'yes' : 'no',
    LOOM_SMTP_PORT: '0',
    LOOM_MAIL_URL: `smtp://127.0.0.1:${others.mailPort}`,
    LOOM_LOG: process.env.LOOM_LOG ?? 'silent',
    LOOM_CHECK: 'yes',
    ...fixedClock(),
  }
  const app = options.server === false ? null : await startServer(readConfig(environment))
  const client = new Client(`http://127.0.0.1:${port}`)
  if (app) await client.signIn()
  const leave = app && options.watched !== false ? await client.watch() : () => undefined
  const fault: World['fault'] = async (service, faults) => {
    await fetch(`${standins}/control/${service}/faults`, { method: 'PUT', body: JSON.stringify(faults) })
  }
  return {
    standins,
    garden: new GardenSide(standins),
    bench: new BenchSide(standins),
    board: new BoardSide(standins),
    app: app as Running,
    client,
    environment,
    fault,
    whileBeingRead: async service => {
      await fault(service, { latencyMs: 1500, method: 'GET', times: 1000 })
      const kind = service === 'garden' ? 'caldav' : 'http-json'
      await app?.ctx.db.run(
        'UPDATE look_times SET next_look_at = 0 WHERE connection_id IN (SELECT id FROM connections WHERE kind = :kind)',
        { kind },
      )
      // A look holds the lease of its connection; a glance holds none, and nothing waits for it.
      await until('it is being read', async () => {
        const now = await fetch(`${standins}/control/${service}/faults`)
        const [held] = (await app?.ctx.db.rows(
          `SELECT 1 FROM leases l JOIN connections c ON l.resource = CONCAT('connection:', c.id)
           WHERE c.kind = :kind AND l.expires_at > :now`,
          { kind, now: Date.now() },
        )) ?? [null]
        return held !== undefined && ((await now.json()) as { times: number }).times < 1000
      })
    },
    close: async () => {
      leave()
      await app?.stop()
      await others.close()
      await database.drop()
      const [mismatch] = trial.mismatches.splice(0)
      if (mismatch) throw new Error(`What was kept of the Cloth was not so. ${mismatch}`)
    },
  }
}
