import { type ChildProcess, fork } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { fileURLToPath } from 'node:url'
import { bundle } from '../../../scripts/bundle.mjs'
import { nodeFlags } from '../../../scripts/node-flags.mjs'
import { addMember } from '../src/data/repositories/members.ts'
import { addUser } from '../src/data/repositories/users.ts'
import { hashPassword } from '../src/access/passwords.ts'
import { Database } from '../src/data/database.ts'
import { migrate } from '../src/data/migrate.ts'
import { Client, freePort, freshDatabase } from '../test/support/world.ts'
import { largeDescription } from './large-service.ts'

/** The server as a process of its own, with an empty workspace and somebody signed in. */

/** Since then, ms. */
export const ms = (from: number): number => performance.now() - from
export const hostOf = (base: string): string => new URL(base).host

/** As it ships: built, and run by plain Node. */
let measured: Promise<void> | null = null
async function built(): Promise<string> {
  await (measured ??= bundle({ server: 'packages/server/bench/measured-server.ts' }, 'bench'))
  return fileURLToPath(new URL('../../../dist/bench/server.js', import.meta.url))
}

interface Gauge {
  p99: number
  max: number
  rss: number
  /** Of a core, ms since its start. */
  cpu: number
}
export class Server {
  private constructor(
    private readonly child: ChildProcess,
    readonly client: Client,
    readonly db: Database,
    private readonly drop: () => Promise<void>,
    /** Nobody looks any more. */
    readonly leave: () => void,
  ) {}

  /** @param isStill nothing but its CPU time is measured */
  static async start(allow: string[], isStill = false): Promise<Server> {
    const { url, drop } = await freshDatabase()
    const db = new Database(url)
    await migrate(db)
    const id = randomUUID()
    await db.insert(`INSERT INTO workspaces (id, name, zone) VALUES (:id, 'Bench', 'Europe/Dublin')`, { id })
    const [member, email] = [randomUUID(), 'ines@quillmere.example']
    await addUser(db, { id: member, email, passwordHash: await hashPassword('night-flowering'), now: 0 })
    await addMember(db, {
      id: member,
      workspaceId: id,
      userId: member,
      role: 'coordinator',
      name: 'Ines Varga',
      email,
      zone: 'Europe/Dublin',
      now: 0,
    })
    const port = await freePort()
    const child = fork(await built(), {
      execArgv: [...nodeFlags],
      env: {
        ...process.env,
        LOOM_PORT: String(port),
        LOOM_SMTP_PORT: '0',
        DATABASE_URL: url,
        LOOM_SECRET: 'ab'.repeat(32),
        LOOM_ALLOW_HOSTS: allow.join(','),
        LOOM_LOG: 'error',
        LOOM_BENCH_STILL: isStill ? '1' : '',
      },
    })
    await new Promise<void>((done, fail) => {
      child.once('message', () => done())
      child.once('exit', code => fail(new Error(`the server ended (${code})`)))
    })
    const client = new Client(`http://127.0.0.1:${port}`)
    await client.signIn()
    const leave = await client.watch()
    return new Server(child, client, db, drop, leave)
  }

  gauge = (): Promise<Gauge> =>
    new Promise(done => {
      this.child.once('message', m => done(m as Gauge))
      this.child.send('gauge')
    })

  async call(method: string, path: string, body?: object) {
    const answer = await this.client.call(method, path, body)
    if (answer.status >= 400) throw new Error(`${method} ${path}: ${JSON.stringify(answer.body)}`)
    return answer.body
  }

  /** Signs in and keeps everything; returns the connection's id. */
  async connect(given: object, name: string): Promise<string> {
    const { draft } = await this.call('POST', '/connecting/drafts', given)
    const { account } = await this.call('GET', `/connecting/drafts/${draft}`)
    const { id } = await this.call('POST', `/connecting/drafts/${draft}/keep`, {
      name,
      ownerId: null,
      takesPart: account.collections.map((c: { remoteId: string }) => c.remoteId),
      scope: { by: 'sentence', future: false, filter: [], notes: true },
      meanings: {},
      people: {},
      dyes: {},
      picks: [],
    })
    return id
  }
  /** A calendar account and one of tasks. */
  async connectBoth(garden: string, large: string): Promise<[events: string, tasks: string]> {
    const service = await this.service(large)
    return Promise.all([
      this.connect({ service: 'caldav', address: garden, user: 'tobias', password: 'glasshouse' }, 'Garden'),
      this.connect({ service, address: large, key: 'k' }, 'Large'),
    ])
  }
  async service(base: string): Promise<string> {
    const description = JSON.stringify(largeDescription(base))
    return (await this.call('POST', '/connecting/services', { description })).id
  }
  /** Asked of the database, so that asking costs the server nothing. */
  async until(sql: string, params: object, everyMs = 10): Promise<void> {
    while (!(await this.db.one(sql, params as Record<string, unknown>)))
      await new Promise(done => setTimeout(done, everyMs))
  }
  /** Another person's browser, or another of the same. */
  newSession = (): Promise<string> => new Client(this.client.base).session()

  read = (ids: string[]): Promise<void> =>
    this.until(
      `SELECT 1 AS done FROM DUAL WHERE NOT EXISTS
         (SELECT 1 FROM collections WHERE connection_id IN (:ids) AND takes_part = 1 AND synced_at IS NULL)`,
      { ids },
      100,
    )

  async stop(): Promise<void> {
    const ended = new Promise(done => this.child.once('exit', done))
    this.child.send('stop')
    await ended
    await this.db.close()
    await this.drop()
  }
}
