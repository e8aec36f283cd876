import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { expect } from 'chai'
import { Database } from '../src/data/database.ts'
import { beginBoard, connectionOf, keep, readOnce, titlesIn } from './support/connecting.ts'
import { property } from './support/garden.ts'
import { Client, freePort, startWorld, until, weekDay, type World } from './support/world.ts'

/** SIGKILL in the middle of passes; afterwards both sides agree, nothing is lost and nothing doubled. */
describe('a server that is killed', function () {
  this.timeout(3_600_000)
  let w: World
  let child: ChildProcess | null = null
  let db: Database
  const KILLS = Number(process.env.KILLS ?? 30)

  before(async () => {
    w = await startWorld({ server: false })
    db = new Database(w.environment.DATABASE_URL ?? '')
  })
  after(async () => {
    child?.kill('SIGKILL')
    await db.close()
    await w.close()
  })

  async function server(client: Client, more: Record<string, string> = {}): Promise<ChildProcess> {
    const main = new URL('../src/main.ts', import.meta.url).pathname
    const env = { ...process.env, ...w.environment, ...more }
    for (;;) {
      const started = spawn(process.execPath, ['--import', 'tsx', main], {
        env,
        stdio: ['ignore', 'ignore', 'pipe'],
      })
      let said = ''
      started.stderr.on('data', (part: Buffer) => (said += part.toString()))
      let ended = false
      // Not before all that it said has come.
      started.once('close', () => (ended = true))
      const state = await until(
        'the server answers',
        async () => (ended ? 'ended' : (await client.call('GET', '/health')).body.ok === true && 'answers'),
        30_000,
      )
      if (state === 'answers') return started
      // Between two lives, somebody else may go out by the port that was free at first.
      if (!said.includes('EADDRINUSE')) throw new Error(`the server ended: ${said}`)
    }
  }
  const start = async (): Promise<void> => {
    child = await server(w.client)
  }
  const end = async (): Promise<void> => {
    if (!child || child.exitCode !== null || child.signalCode !== null) return
    const ended = once(child, 'exit')
    child.kill('SIGKILL')
    await ended
  }
  const kill = async (): Promise<void> => {
    await end()
    // Its leases would run out by themselves; what is tried here is what it left, not the waiting.
    await db.run('UPDATE leases SET expires_at = 0')
  }

  it('has everything in step after it is started again, whenever it was killed', async () => {
    const titles: string[] = []
    // Slow enough for the kill to land between asking and hearing.
    await w.fault('garden', { latencyMs: 25 })
    for (let round = 0; round < KILLS; round++) {
      await start()
      for (let i = 0; i < 2; i++) {
        const text = `Round ${round}, task ${i}`
        titles.push(text)
        await w.bench.add('festival', { text, day: weekDay(i), hour: `${String(9 + i).padStart(2, '0')}:00` })
      }
      const [earlier] = await w.bench.titled('festival', `Round ${round - 1}, task 1`)
      if (earlier) await w.bench.edit(earlier.id, { hour: '17:45' })
      // Somewhere in the pass: each round a little later.
      await until(
        'some of it has begun',
        async () => (await w.garden.names('festival-work')).length > 4 + round,
      )
      await new Promise(resolve => setTimeout(resolve, (round * 37) % 230))
      await kill()
    }
    // Each life was long enough for some of its writes only; what is left is sent now, at the service's usual pace.
    await w.fault('garden', {})
    await start()
    const client = new Client(w.client.base)
    await client.signIn()
    const leave = await client.watch()
    await until(
      'every task has its event',
      async () => {
        const events = (await w.garden.events('festival-work')).map(e =>
          property(e.text, 'SUMMARY')?.replace(/\\,/g, ','),
        )
        const { rules } = (await client.call('GET', '/rules')).body
        const missing = titles.filter(t => !events.includes(t))
        const { waiting } = rules[0]
        if (missing.length === 0 && waiting === 0) return true
        throw new Error(`${missing.length} have none (${missing.slice(0, 5).join('; ')}), ${waiting} wait`)
      },
      60_000 + KILLS * 500,
    )
    const events = await w.garden.events('festival-work')
    const tasks = await w.bench.listed('festival')
    for (const title of titles) {
      const own = events.filter(e => property(e.text, 'SUMMARY')?.replace(/\\,/g, ',') === title)
      expect(own, `${title}: one event`).to.have.length(1)
      expect(
        tasks.filter(t => t.text === title),
        `${title}: one task`,
      ).to.have.length(1)
      const hour = tasks.find(t => t.text === title)?.hour?.replace(':', '')
      expect(property(own[0]?.text ?? '', 'DTSTART')).to.match(new RegExp(`T${hour}00$`))
    }
    leave()
  })

  it('is stood in for by another on the same database, which makes nothing twice', async () => {
    const port = await freePort()
    const other = new Client(`http://127.0.0.1:${port}`)
    const second = await server(other, { LOOM_PORT: String(port) })
    try {
      await other.signIn()
      const leave = await other.watch()
      await w.fault('garden', { latencyMs: 150 })
      const titles = Array.from({ length: 8 }, (_, i) => `Shared ${i}`)
      const before = (await w.garden.names('festival-work')).length
      for (const [i, text] of titles.entries())
        await w.bench.add('festival', { text, day: weekDay(i % 5), hour: '11:00' })
      await until(
        'some of it is done',
        async () => (await w.garden.names('festival-work')).length >= before + 2,
      )
      // Its leases are left as they are: they run out by themselves.
      await end()
      const made = async () =>
        (await w.garden.events('festival-work'))
          .map(e => property(e.text, 'SUMMARY') ?? '')
          .filter(t => titles.includes(t))
      await until(
        'the other has done the rest',
        async () => new Set(await made()).size === titles.length,
        60_000,
      )
      expect((await made()).sort()).to.deep.equal(titles)
      leave()
    } finally {
      second.kill('SIGKILL')
      await w.fault('garden', {})
      await start()
    }
  })

  it('goes on with a first import where it was', async () => {
    await kill()
    await w.fault('garden', {})
    for (let i = 0; i < 90; i++) await w.board.add('c-glass', { title: `Pane ${i}` })
    await start()
    await w.client.signIn()
    const found = await beginBoard(w)
    await w.fault('board', { latencyMs: 700 })
    const id = await keep(w, found, {
      takesPart: found.account.collections.filter(c => c.name === 'Glasshouse crew').map(c => c.remoteId),
    })
    const crew = async () => {
      const { collections } = await connectionOf(w, id)
      return collections.find((k: { name: string }) => k.name === 'Glasshouse crew')
    }
    const before = await until('two pages are in', async () => {
      const k = await crew()
      return k.importDone >= 40 && k.syncedAt === null && k
    })
    await kill()
    await start()
    await w.client.signIn()
    expect((await crew()).importDone, 'nothing of it is lost').to.be.at.least(before.importDone)
    await until(
      'it goes on from there',
      async () => {
        const k = await crew()
        expect(k.syncedAt !== null || k.importDone >= before.importDone).to.equal(true)
        return k.syncedAt !== null || k.importDone > before.importDone
      },
      30_000,
    )
    await w.fault('board', {})
    await readOnce(w, id)
    const titles = await titlesIn(w, id)
    expect(titles.filter(t => t.startsWith('Pane '))).to.have.length(90)
    expect(new Set(titles).size).to.equal(titles.length)
  })
})
