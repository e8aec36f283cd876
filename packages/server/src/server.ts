import { serve } from '@hono/node-server'
import { outbound } from '@loom/connectors'
import pino from 'pino'
import { clockOf, type Config } from './config.ts'
import { Database } from './data/database.ts'
import { migrate } from './data/migrate.ts'
import { makeConflict } from './demo/conflict.ts'
import { seedDemo } from './demo/seed.ts'
import { makeApp } from './http/app.ts'
import { listenForMail } from './intake/mail.ts'
import { ensureOwn } from './own/ensure.ts'
import { ChangeFeed } from './sync/changes.ts'
import type { Context } from './sync/context.ts'
import { Engine } from './sync/engine.ts'
import { DailySummary } from './summary/daily.ts'

const REQUEST_MS = 4_000
const MAX_ANSWER = 20_000_000

export interface Running {
  port: number
  smtpPort: number
  ctx: Context
  engine: Engine
  summary: DailySummary
  stop: () => Promise<void>
}

/** Starts one server process: migrations, the engine, and HTTP on loopback. */
export async function startServer(config: Config): Promise<Running> {
  const db = new Database(config.databaseUrl)
  await migrate(db)
  const ctx: Context = {
    db,
    feed: new ChangeFeed(db),
    http: outbound({ allowed: config.allowedHosts, timeoutMs: REQUEST_MS, maxBytes: MAX_ANSWER }),
    now: clockOf(config.clock),
    secret: config.secret,
    publicUrl: config.publicUrl,
    mailHost: config.mailHost,
    log: pino({ level: config.logLevel }),
    connectors: new Map(),
    hints: new Map(),
    checks: config.checks,
  }
  const { demo } = config
  const fresh = demo ? await seedDemo(ctx, demo.standins, demo.size) : false
  await ensureOwn(ctx)
  const engine = new Engine(ctx)
  const app = makeApp(ctx, engine, config.web)
  const server = await new Promise<ReturnType<typeof serve>>((resolve, reject) => {
    const listening = serve({ fetch: app.fetch, port: config.port, hostname: '127.0.0.1' }, () =>
      resolve(listening),
    )
    listening.on('error', reject)
  })
  const address = server.address()
  const mail = await listenForMail(ctx, engine, config.smtpPort)
  const summary = new DailySummary(ctx, config.outgoingMail)
  ctx.feed.start()
  summary.start()
  engine.start()
  if (fresh && demo?.conflict)
    void makeConflict(ctx, engine, demo.standins).catch((error: unknown) =>
      ctx.log.warn({ err: error }, 'the demo has no conflict waiting'),
    )
  return {
    port: typeof address === 'object' && address ? address.port : config.port,
    smtpPort: mail.port,
    ctx,
    engine,
    summary,
    stop: async () => {
      if ('closeAllConnections' in server) server.closeAllConnections()
      await new Promise<void>(resolve => server.close(() => resolve()))
      await mail.close()
      await summary.stop()
      ctx.feed.stop()
      await engine.stop()
      await db.close()
    },
  }
}
