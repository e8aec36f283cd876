import { fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { largeGarden } from './large-garden.ts'
import { LargeService } from './large-service.ts'
import { storeItems, WEEK } from './one-week.ts'
import { freePort } from '../test/support/world.ts'
import { hostOf, Server } from './server-under-test.ts'

/** The Cloth's week out of everything stored, as pages ask for it: to open it, and to learn what has changed in it. */

const AT_ONCE = 20

export async function askedWeek(count: number, quick: boolean): Promise<string[]> {
  const garden = await largeGarden(1)
  const large = await new LargeService(1).listen()
  const server = await Server.start([garden.base, large.base].map(hostOf))
  const [events, tasks] = await server.connectBoth(garden.base, large.base)
  await server.read([events, tasks])
  await server.db.run('UPDATE connections SET paused = 1')
  await storeItems(server.db, { events, tasks }, count)
  const headers = { Cookie: await server.client.session() }
  const week = `${server.client.base}/api/cloth?from=${WEEK}&days=7`
  const get = async (more = ''): Promise<string> => (await fetch(week + more, { headers })).text()
  let version = ''
  /** Read to its end, and not parsed: twenty who ask parse on twenty machines. */
  const timed = async (has: boolean): Promise<number> => {
    const from = performance.now()
    const text = await get(has ? `&have=${version}` : '')
    const took = performance.now() - from
    const items = text.split('"key":').length - 1
    if (has ? items > 3 : items < 500) throw new Error(`${items} items came`)
    return took
  }
  const noteVersion = async (): Promise<void> => {
    version = /"version":"([^"]+)"/.exec(await get())?.[1] ?? ''
  }
  const inWeek = await server.db.rows<{ id: string; workspace_id: string }>(
    `SELECT id, workspace_id FROM mirrors WHERE connection_id = :events AND remote_id IN (:some)`,
    { events, some: Array.from({ length: 100 }, (_, i) => `e${i}`) },
  )
  let round = 0
  /** One of its items, as if its service had told us of it. */
  const change = async (): Promise<void> => {
    const item = inWeek[++round % inWeek.length]
    if (!item) throw new Error('nothing is in the week')
    await server.db.commit(async sql => {
      await sql.run(`UPDATE mirrors SET item = JSON_SET(item, '$.summary', :title) WHERE id = :id`, {
        id: item.id,
        title: `Round ${round}`,
      })
      sql.tell(item.workspace_id, { topics: ['cloth'], exact: true }, [item.id])
    })
  }
  /** `before`: what is done each time before it is asked for. */
  const measure = async (
    times: number,
    n: number,
    one: () => Promise<number>,
    before: () => Promise<void> = () => Promise.resolve(),
  ) => {
    const all: number[] = []
    for (let i = 0; i < times; i++) {
      await before()
      all.push(...(await Promise.all(Array.from({ length: n }, one))))
    }
    const sorted = all.toSorted((x, y) => x - y)
    return (share: number): string => `${(sorted[Math.floor(sorted.length * share)] ?? 0).toFixed(0)} ms`
  }
  const whole = () => timed(false)
  const since = () => timed(true)
  const noteAndChange = async (): Promise<void> => {
    await noteVersion()
    await change()
  }
  const some = (n: number): number => (quick ? Math.ceil(n / 8) : n)
  // A server that has run for a minute, not for a second.
  await measure(some(60), 1, whole, change)
  const alone = await measure(some(60), 1, whole, change)
  const together = await measure(some(8), AT_ONCE, whole, change)
  const same = await measure(some(20), AT_ONCE, whole)
  const hasAlone = await measure(some(60), 1, since, noteAndChange)
  const hasTogether = await measure(some(8), AT_ONCE, since, noteAndChange)
  const port = await freePort()
  const size = Buffer.byteLength(await get())
  const bare = fork(fileURLToPath(new URL('bare-server.ts', import.meta.url)), [String(size), String(port)], {
    execArgv: ['--import', 'tsx'],
  })
  await new Promise(ready => bare.once('message', ready))
  const transfer = async (): Promise<number> => {
    const from = performance.now()
    await (await fetch(`http://127.0.0.1:${port}/`)).text()
    return performance.now() - from
  }
  await measure(some(60), 1, transfer)
  const bareAlone = await measure(some(60), 1, transfer)
  const bareTogether = await measure(some(20), AT_ONCE, transfer)
  bare.kill()
  await server.stop()
  large.close()
  await garden.close()
  return [
    alone(0.5),
    alone(0.95),
    together(0.95),
    same(0.95),
    hasAlone(0.5),
    hasAlone(0.95),
    hasTogether(0.95),
    bareAlone(0.95),
    bareTogether(0.95),
  ]
}
