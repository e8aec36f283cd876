import { subscribe, unsubscribe } from 'node:diagnostics_channel'
import { setTimeout as wait } from 'node:timers/promises'
import { stillGarden } from './large-garden.ts'
import { hostOf, Server } from './server-under-test.ts'

/** What it costs to look after accounts in which nothing happens, with nobody signed in. */

const REQUESTS = 'http.server.request.start'
/** Until what was read in is tidied away in memory, and what runs often is compiled. */
const SETTLE_MS = 60_000

export async function idle(accounts: number, calendars: number, seconds: number): Promise<string[]> {
  const users = Array.from({ length: accounts }, (_, i) => `user${i}`)
  const garden = await stillGarden(users, calendars)
  const server = await Server.start([hostOf(garden.base)], true)
  const ids: string[] = []
  for (const user of users)
    ids.push(
      await server.connect(
        { service: 'caldav', address: garden.base, user, password: 'still' },
        `Of ${user}`,
      ),
    )
  if (ids.length > 0) await server.read(ids)
  server.leave()
  await wait(SETTLE_MS)
  let requests = 0
  const count = (): void => void requests++
  subscribe(REQUESTS, count)
  const from = await server.gauge()
  await wait(seconds * 1000)
  const to = await server.gauge()
  unsubscribe(REQUESTS, count)
  await server.stop()
  await garden.close()
  const share = (100 * (to.cpu - from.cpu)) / (seconds * 1000)
  return [`${share.toFixed(2)} %`, (requests / Math.max(1, accounts) / (seconds / 60)).toFixed(1)]
}
