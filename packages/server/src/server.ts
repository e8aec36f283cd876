import { serve } from '@hono/node-server'
import { outbound } from '@loom/connectors'
import pino from 'pino'
import { clockOf, type Config } from './config.ts'
import { Database } from './data/database.ts'
import { migrate } from './data/migrate.ts'
import { seedDemo } from './demo/seed.ts'
import { makeApp } from './http/app.ts'
import { ChangeFeed } from './sync/changes.ts'
import type { Context } from './sync/context.ts'
import { Engine } from './sync/engine.ts'

const REQUEST_MS = 4_000
const MAX_ANSWER = 20_000_000

export interface Running {
  port: number
  ctx: Context
  engine: Engine
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
    log: pino({ level: config.logLevel }),
  }
  if (config.demo) await seedDemo(ctx, config.demo)
  const engine = new Engine(ctx)
  const app = makeApp(ctx, engine, config.web)
  const server = await new Promise<ReturnType<typeof serve>>((resolve, reject) => {
    const listening = serve({ fetch: app.fetch, port: config.port, hostname: '127.0.0.1' }, () =>
      resolve(listening),
    )
    listening.on('error', reject)
  })
  const address = server.address()
  ctx.feed.start()
  engine.start()
  return {
    port: typeof address === 'object' && address ? address.port : config.port,
    ctx,
    engine,
    stop: async () => {
      if ('closeAllConnections' in server) server.closeAllConnections()
      await new Promise<void>(resolve => server.close(() => resolve()))
      ctx.feed.stop()
      await engine.stop()
      await db.close()
    },
  }
}
