import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { cpus } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { askedWeek } from './asked-week.ts'
import { bare } from './bare.ts'
import { inStep } from './in-step.ts'
import { largeGarden } from './large-garden.ts'
import { LargeService } from './large-service.ts'
import { idle } from './idle.ts'
import { manyPages } from './many-pages.ts'
import { drafting } from './drafts.ts'
import { planning, tiesAtRest } from './planning.ts'
import { reported } from './reported.ts'
import { hostOf, ms, Server } from './server-under-test.ts'
import { watchStolen } from './stolen.ts'

/** Every figure of docs/benchmarks.md, each beside the bare transfer or parsing of the same data. Writes the file. */

const ROOT = fileURLToPath(new URL('../../..', import.meta.url))
const quick = process.argv.includes('--quick')
/** `--only "in step"`: one part alone, and nothing is written down. */
const only = process.argv.includes('--only') ? process.argv[process.argv.indexOf('--only') + 1] : null

const secondsOf = (n: number): string => `${(n / 1000).toFixed(2)} s`

const lines: string[] = []
const row = (...cells: string[]): void => void lines.push(`| ${cells.join(' | ')} |`)
const table = (title: string, ...heads: string[]): void => {
  lines.push('', `## ${title}`, '')
  row(...heads)
  row(...heads.map(() => '---'))
}

async function firstImport(count: number): Promise<void> {
  const garden = await largeGarden(count)
  const large = await new LargeService(count).listen()
  const server = await Server.start([hostOf(garden.base), hostOf(large.base)])
  const before = await bare(garden.base, large.base)
  await server.gauge()
  const from = performance.now()
  const ids = await server.connectBoth(garden.base, large.base)
  await server.until(`SELECT 1 FROM mirrors WHERE connection_id IN (:ids) LIMIT 1`, { ids })
  const usable = ms(from)
  await server.read(ids)
  const took = ms(from)
  const { p99, max, rss } = await server.gauge()
  // The machine is not as quick at every moment.
  const after = await bare(garden.base, large.base)
  const floor = (before.calendar + before.tasks + after.calendar + after.tasks) / 2
  row(
    `${count} tasks and ${count} events`,
    secondsOf(took),
    `${usable.toFixed(0)} ms`,
    secondsOf(floor),
    `${p99.toFixed(0)} ms`,
    `${max.toFixed(0)} ms`,
    `${(rss / 1e6).toFixed(0)} MB`,
  )
  await server.stop()
  large.close()
  await garden.close()
}

async function delta(count: number): Promise<void> {
  const large = await new LargeService(count).listen()
  const server = await Server.start([hostOf(large.base)])
  const service = await server.service(large.base)
  const started = performance.now()
  const id = await server.connect({ service, address: large.base, key: 'k' }, 'Large')
  await server.read([id])
  const imported = ms(started)
  const times: number[] = []
  const floors: number[] = []
  await server.gauge()
  for (let round = 0; round < 5; round++) {
    large.change(100, `Round${round}`)
    let from = performance.now()
    await server.call('POST', `/connections/${id}/look`)
    await server.until(
      `SELECT 1 FROM (SELECT COUNT(*) AS n FROM mirrors WHERE connection_id = :id AND remote_id IN (:ids)
         AND item LIKE :like) q WHERE q.n = 100`,
      { id, ids: large.rows.slice(0, 100).map(r => r.id), like: `%Round${round} %` },
    )
    times.push(ms(from))
    from = performance.now()
    await (await fetch(`${large.base}/changes?list=l&since=${round * 100}`)).json()
    floors.push(ms(from))
  }
  const { p99, max, rss } = await server.gauge()
  const median = (all: number[]): number => [...all].sort((x, y) => x - y)[all.length >> 1] ?? 0
  row(
    `100 among ${count}`,
    `${median(times).toFixed(0)} ms`,
    `${median(floors).toFixed(1)} ms`,
    `${p99.toFixed(0)} ms`,
    `${max.toFixed(0)} ms`,
    `${(rss / 1e6).toFixed(0)} MB`,
    secondsOf(imported),
  )
  await server.stop()
  large.close()
}

async function neighbours(slow: number): Promise<void> {
  const quickOne = await new LargeService(50).listen()
  const slowOnes = await Promise.all(Array.from({ length: slow }, () => new LargeService(5000).listen()))
  const server = await Server.start([quickOne, ...slowOnes].map(s => hostOf(s.base)))
  const id = await server.connect(
    { service: await server.service(quickOne.base), address: quickOne.base, key: 'k' },
    'Quick',
  )
  await server.read([id])
  for (const [i, s] of slowOnes.entries()) {
    await server.connect({ service: await server.service(s.base), address: s.base, key: 'k' }, `Slow ${i}`)
    s.latencyMs = 2000
  }
  const times: number[] = []
  for (let round = 0; round < 7; round++) {
    quickOne.change(1, `Round${round}`)
    const from = performance.now()
    await server.call('POST', `/connections/${id}/look`)
    await server.until(
      `SELECT 1 FROM mirrors WHERE connection_id = :id AND remote_id = 'r0' AND item LIKE :like`,
      { id, like: `%Round${round} %` },
    )
    times.push(ms(from))
  }
  times.sort((x, y) => x - y)
  row(
    slow === 0 ? 'alone' : `beside ${slow} that take 2 s for each answer`,
    `${times[3]?.toFixed(0)} ms`,
    `${times[6]?.toFixed(0)} ms`,
  )
  await server.stop()
  for (const s of [quickOne, ...slowOnes]) s.close()
}

const rows: [string, () => Promise<void>][] = [
  [
    'planning',
    async () => {
      table(
        'Planning, nothing read or written',
        'ties',
        'a pass with 100 changes',
        'everything anew',
        'bare parsing of the items',
      )
      for (const n of quick ? [1000] : [1000, 10_000, 100_000]) {
        const { pass, full, floor } = planning(tiesAtRest(n), 100)
        row(String(n), `${pass.toFixed(1)} ms`, `${full.toFixed(0)} ms`, `${floor.toFixed(0)} ms`)
      }
    },
  ],
  [
    'drafts',
    async () => {
      table(
        'A draft, one thread, median of 5: more work than there is room for',
        'what',
        'first to show',
        'done',
        'cheaper by then',
      )
      const sizes: [number, number][] = [
        [30, 14],
        [300, 14],
        [1000, 28],
        [3000, 28],
      ]
      for (const [demands, days] of quick ? sizes.slice(0, 1) : sizes) {
        const { first, done, better } = drafting(demands, days)
        const cheaper = `${(better * 100).toFixed(1)} %`
        row(
          `${demands} demands over ${days} days`,
          `${first.toFixed(0)} ms`,
          `${done.toFixed(0)} ms`,
          cheaper,
        )
      }
    },
  ],
  [
    'time report',
    async () => {
      table(
        'The time report of one person, all of it, over HTTP, 40 times',
        'out of',
        'median',
        'p95',
        'the database reads each row once',
      )
      for (const n of quick ? [1000] : [10_000, 100_000]) {
        const { median, p95, bare: floor } = await reported(n)
        row(`${n} entries`, ...[median, p95, floor].map(one => `${one.toFixed(0)} ms`))
      }
    },
  ],
  [
    'in step',
    async () => {
      table(
        'A list and a calendar in step',
        'what',
        'full comparison, nothing changed',
        'bare transfer of both',
        'one change at a time: from its notification to the write’s arrival at the other side, median of 25',
        'p95',
        'until it is confirmed, without the calendar’s own time, median',
        'from the notification to an open Cloth, median',
        'p95',
      )
      // One calendar's listing of 100,000 is more than we take in one answer; a server that pages it is none here.
      for (const n of quick ? [1000] : [1000, 10_000, 30_000]) row(...(await inStep(n)))
    },
  ],
  [
    'one week',
    async () => {
      table(
        'One week of the Cloth (600 items in it, 120 of them tasks tied to as many of its events, and 60 tasks on the shelf), asked for over HTTP right after one of its items has changed',
        'out of',
        'all of it, alone: median',
        'p95',
        '20 at once, p95',
        'nothing changed, 20 at once, p95',
        'by a page that has it already, alone: median',
        'p95',
        '20 at once, p95',
        'bare transfer of all of it, alone: p95',
        '20 at once, p95',
      )
      for (const n of quick ? [1000] : [1000, 10_000, 100_000])
        row(`${n} stored`, ...(await askedWeek(n, quick)))
    },
  ],
  [
    'first import',
    async () => {
      table(
        'First import, two services at once',
        'what',
        'all of it in',
        'first items usable after',
        'bare transfer',
        'event-loop delay p99',
        'longest',
        'server’s memory at most',
      )
      for (const n of quick ? [1000] : [1000, 10_000, 100_000]) await firstImport(n)
    },
  ],
  [
    'delta',
    async () => {
      table(
        'A delta, from “look now” to the stored items',
        'what',
        'median of 5',
        'bare transfer',
        'event-loop delay p99',
        'longest',
        'server’s memory at most',
        'the import before it',
      )
      for (const n of quick ? [1000] : [1000, 10_000, 100_000]) await delta(n)
    },
  ],
  [
    'many pages',
    async () => {
      table(
        'Edits on one workspace, and pages open that each ask for what has changed',
        'what',
        'edits not taken',
        'an edit’s answer, median',
        'p95',
        'until the last page shows it, median',
        'p95',
      )
      for (const [pages, edits] of quick
        ? ([[10, 10]] as const)
        : ([
            [0, 50],
            [10, 20],
            [100, 20],
          ] as const))
        row(`${edits} edits a second, ${pages} pages`, ...(await manyPages(pages, edits, quick ? 3 : 15)))
      const viewers = quick ? 10 : 50
      row(
        `20 edits a second for a minute, ${viewers} pages of people who each own two calendars, in three zones`,
        ...(await manyPages(viewers, 20, quick ? 3 : 60, viewers)),
      )
    },
  ],
  [
    'idle',
    async () => {
      table(
        'Accounts in which nothing happens, asked every few seconds, nobody signed in',
        'what',
        'of a core',
        'requests a minute for each account',
      )
      const seconds = quick ? 5 : 60
      row('no account', ...(await idle(0, 20, seconds)))
      row('1 account of 20 calendars', ...(await idle(1, 20, seconds)))
      row('8 accounts of 20 calendars', ...(await idle(8, 20, seconds)))
    },
  ],
  [
    'neighbours',
    async () => {
      table('One change at a quick service', 'where', 'median of 7', 'longest')
      for (const n of [0, 8]) await neighbours(n)
    },
  ],
]
for (const [name, run] of rows.filter(r => only === null || r[0] === only)) {
  console.log(`— ${name}`)
  const from = lines.length
  const stolen = watchStolen()
  await run()
  lines.push('', stolen())
  console.log(lines.slice(from).join('\n'))
}
// What was measured in the page before this, if it was.
const page = process.env.LOOM_BENCH_PAGE
if (page && existsSync(page)) lines.push('', readFileSync(page, 'utf8').trim())
const [cpu] = cpus()
const head = [
  '# Benchmarks',
  '',
  'Written by `npm run bench`, on this machine with nothing else running. The services are in the process that',
  'measures, the server and MariaDB are processes of their own, all on loopback. “Bare transfer” fetches the same',
  'data over the same protocol, one request after the other, and does nothing with it.',
  '',
  `${cpus().length} × ${cpu?.model ?? 'unknown'}, Node.js ${process.version}, ${new Date().toISOString().slice(0, 10)}.`,
]
if (!quick && only === null)
  writeFileSync(join(ROOT, 'docs/benchmarks.md'), `${[...head, ...lines].join('\n')}\n`)
process.exit(0)
