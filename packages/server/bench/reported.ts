import { randomUUID } from 'node:crypto'
import { addDays } from '@loom/core'
import { chunks } from '../src/data/chunks.ts'
import { sumDay } from '../src/data/repositories/time-entries.ts'
import { ms, Server } from './server-under-test.ts'

/** The time report of one person over HTTP, out of so many entries: the median and the 95th percentile of 40, ms. */
export async function reported(entries: number): Promise<{ median: number; p95: number; bare: number }> {
  const server = await Server.start([])
  const [member] = await server.db.rows<{ id: string; ws: string }>(
    'SELECT id, workspace_id AS ws FROM members LIMIT 1',
  )
  // A year of one person, and for the rest ever more years: nobody writes down a thousand entries a day.
  const days = Math.max(70, Math.min(1095, Math.round(entries / 40)))
  const first = addDays('2026-06-17', -days)
  const rows = Array.from({ length: entries }, (_, n) => [
    randomUUID(),
    member?.ws,
    member?.id,
    1,
    addDays(first, Math.floor((n * days) / entries)),
    25,
    25,
    ['hand', 'clock', 'worked', 'attended'][n % 4],
    0,
    `u${Math.floor(n / 3)}`,
    'Zorblax',
    `List ${n % 6}`,
    `Category ${n % 3}`,
    n % 4 === 3 ? 'meeting' : 'task',
    30,
    0,
    0,
  ])
  const insert = `INSERT INTO time_entries (id, workspace_id, member_id, version, day, minutes, counted, source, assumed, uid, title, list,
       category, kind, estimate, private, made_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`
  for (const part of chunks(rows, 20_000)) await server.db.commit(sql => sql.insertMany(insert, part))
  const p = { memberId: member?.id ?? '' }
  await server.db.commit(async sql => {
    for (let n = 0; n <= days; n++) await sumDay(sql, { ...p, day: addDays(first, n) })
    await sql.insert(
      `INSERT INTO time_tasks (member_id, workspace_id, uid, title, category, estimate, taken, beside, day, finished)
       SELECT member_id, workspace_id, uid, 'Zorblax', MAX(category), 30, SUM(counted), 0, MAX(day), 1 FROM time_entries
       GROUP BY member_id, workspace_id, uid`,
    )
  })
  const path = `/time/report?from=${first}&to=2026-06-18&by=category&period=week`
  const times: number[] = []
  for (let round = 0; round < 40; round++) {
    const from = performance.now()
    const { status } = await server.client.call('GET', path)
    if (status !== 200) throw new Error(`the report was answered with ${status}`)
    times.push(ms(from))
  }
  const from = performance.now()
  await server.db.rows('SELECT COUNT(*) AS n FROM time_entries WHERE minutes > 24')
  const bare = ms(from)
  times.sort((x, y) => x - y)
  await server.stop()
  return { median: times[20] ?? 0, p95: times[37] ?? 0, bare }
}
