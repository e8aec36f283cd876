import { type ChildProcess, spawn } from 'node:child_process'
import { expect } from 'chai'
import { Database } from '../src/data/database.ts'
import { beginBoard, connectionOf, keep, readOnce, titlesIn } from './support/connecting.ts'
import { property } from './support/garden.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

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

  const start = async (): Promise<void> => {
    child = spawn(
      process.execPath,
      ['--import', 'tsx', new URL('../src/main.ts', import.meta.url).pathname],
      {
        env: { ...process.env, ...w.environment },
        stdio: 'ignore',
      },
    )
    await until(
      'the server answers',
      async () => (await w.client.call('GET', '/health')).body.ok === true,
      30_000,
    )
  }
  const kill = async (): Promise<void> => {
    await new Promise<void>(resolve => {
      child?.once('exit', () => resolve())
      child?.kill('SIGKILL')
    })
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
        return titles.every(t => events.includes(t)) && rules[0].waiting === 0
      },
      60_000,
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
