import { monitorEventLoopDelay } from 'node:perf_hooks'
import { readConfig } from '../src/context/config.ts'
import { startServer } from '../src/server.ts'

/** The server as it ships, with a gauge in it: asked over IPC, it tells what it measured since it was last asked. */
const running = await startServer(readConfig(process.env))
const RESOLUTION_MS = 5
const delay = monitorEventLoopDelay({ resolution: RESOLUTION_MS })
// Where the server itself costs next to nothing, so do the gauges.
const isStill = process.env.LOOM_BENCH_STILL === '1'
if (!isStill) delay.enable()
let rss = 0
if (!isStill) setInterval(() => (rss = Math.max(rss, process.memoryUsage().rss)), 25).unref()

process.on('message', (asked: unknown) => {
  if (asked === 'stop') return void running.stop().then(() => process.exit(0))
  // What is measured is the time between two turns; the resolution itself is no delay.
  const own = (ns: number): number => Math.max(0, ns / 1e6 - RESOLUTION_MS)
  const { user, system } = process.cpuUsage()
  process.send?.({ p99: own(delay.percentile(99)), max: own(delay.max), rss, cpu: (user + system) / 1000 })
  delay.reset()
  rss = 0
})
process.send?.('ready')
// Whoever measures has ended.
process.on('disconnect', () => process.exit(0))
