import { serve } from '@hono/node-server'
import { outbound } from '@loom/connectors'
import { beginning } from './access/entry-links.ts'
import { checkSecrets } from './context/check-secrets.ts'
import { CannotStart, clockOf, type Config } from './context/config.ts'
import { isOfDatabase } from './data/database-errors.ts'
import { Database } from './data/database.ts'
import { migrate } from './data/migrate.ts'
import { tellStory } from './demo/story.ts'
import { seedDemo } from './demo/seed.ts'
import { makeApp } from './http/app.ts'
import { listenForMail } from './intake/mail.ts'
import { ensureOwn } from './connecting/own-lists.ts'
import { ChangeFeed } from './data/change-feed.ts'
import { type Context, REQUEST_MS } from './context/context.ts'
import { Engine } from './sync/engine/engine.ts'
import { makeLog } from './context/log.ts'
import { DailySummary } from './summary/daily.ts'
import { ChatStatuses } from './outward/status.ts'
import { KeepingUp } from './planning/keep-up.ts'
import { BookingLetters } from './offers/booking-letters.ts'
import { FollowBookings } from './offers/follow-bookings.ts'
import { Nights } from './planning/night.ts'
import { CommentLetters } from './team/comment-letters.ts'
import { Reminding } from './reminders/reminding.ts'
import { Inviting } from './outward/invitations/inviting.ts'
import { Background } from './work/background.ts'
import { readLastWords } from './work/last-words.ts'
import { ping } from './data/repositories/health.ts'
import { lastHeldLease } from './data/repositories/leases.ts'

const MAX_ANSWER = 20_000_000

export interface Running {
  port: number
  smtpPort: number
  ctx: Context
  engine: Engine
  summary: DailySummary
  nights: Nights
  keepingUp: KeepingUp
  statuses: ChatStatuses
  letters: CommentLetters
  follow: FollowBookings
  bookingLetters: BookingLetters
  reminding: Reminding
  inviting: Inviting
  /** Where the first person begins; null where somebody has. */
  begin: string | null
  stop: () => Promise<void>
}

const KEEP_ALIVE_MS = 75_000

/** Throws CannotStart in a sentence where the database is not there, or lets nobody in. */
async function reachable(db: Database): Promise<void> {
  try {
    await ping(db)
  } catch (error) {
    const { errno = 0, code = '' } = (error as { parent?: { errno?: number; code?: string } }).parent ?? {}
    if (errno === 1045 || errno === 1044)
      throw new CannotStart('The database does not accept the user and password in DATABASE_URL.')
    if (errno === 1049) throw new CannotStart('There is no database of the name in DATABASE_URL.')
    if (isOfDatabase(error))
      throw new CannotStart(
        `The database does not answer at the address in DATABASE_URL (${code || 'no answer'}).`,
        true,
      )
    throw error
  }
}

/** What a process that was killed was working on: nobody has given its lease back. */
const lastHeld = async (db: Database): Promise<string> =>
  (await lastHeldLease(db, { now: Date.now() }))?.resource ?? ''

/**
 * Starts one server process: migrations, the engine, and HTTP. Throws CannotStart where a setting is wrong.
 */
export async function startServer(config: Config): Promise<Running> {
  const log = makeLog(config.logLevel)
  const db = new Database(config.databaseUrl, config.checks)
  await reachable(db)
  await migrate(db)
  await checkSecrets(db, config.secrets)
  const background = new Background(log)
  const ctx: Context = {
    db,
    background,
    feed: new ChangeFeed(db, background),
    http: outbound({ allowed: config.allowedHosts, timeoutMs: REQUEST_MS, maxBytes: MAX_ANSWER }),
    now: clockOf(config.clock),
    secret: config.secrets,
    publicUrl: config.publicUrl,
    outgoingMail: config.outgoingMail,
    mailHost: config.mailHost,
    log,
    connectors: new Map(),
    hints: new Map(),
    missed: new Map(),
    checks: config.checks,
  }
  const { demo } = config
  const fresh = demo ? await seedDemo(ctx, demo.standins, demo.size) : false
  await ensureOwn(ctx)
  const halted = config.engine
    ? null
    : { since: ctx.now(), why: readLastWords(config.lastWords)?.doing || (await lastHeld(db)) }
  const engine = new Engine(ctx, halted)
  const follow = new FollowBookings(ctx, id => engine.kick(id))
  const bookingLetters = new BookingLetters(ctx)
  const app = makeApp(ctx, engine, {
    web: config.web,
    following: { follow, letters: bookingLetters },
    trustedProxies: config.trustedProxies,
    identity: config.identity,
  })
  const server = await new Promise<ReturnType<typeof serve>>((resolve, reject) => {
    const listening = serve({ fetch: app.fetch, port: config.port, hostname: config.host }, () =>
      resolve(listening),
    )
    listening.on('error', (error: NodeJS.ErrnoException) =>
      reject(
        error.code === 'EADDRINUSE'
          ? new CannotStart(`Port ${config.port} is taken by another program. Set LOOM_PORT to a free one.`)
          : error,
      ),
    )
  })
  // Longer than any balancer or browser keeps an idle connection, so that none is closed while a request is on its way.
  if ('keepAliveTimeout' in server) server.keepAliveTimeout = KEEP_ALIVE_MS
  const address = server.address()
  const mail = await listenForMail(ctx, engine, config.smtpPort, { authserv: config.mailAuthserv })
  const summary = new DailySummary(ctx, config.outgoingMail)
  const letters = new CommentLetters(ctx, config.outgoingMail)
  const nights = new Nights(ctx)
  const statuses = new ChatStatuses(ctx)
  const reminding = new Reminding(ctx)
  const inviting = new Inviting(ctx, id => engine.kick(id))
  const keepingUp = new KeepingUp(ctx, (workspaceId, connections) => {
    for (const id of connections) engine.kick(id)
    engine.requestPlan(workspaceId)
  })
  summary.start()
  nights.start()
  keepingUp.start()
  statuses.start()
  reminding.start()
  inviting.start()
  letters.start()
  follow.start()
  bookingLetters.start()
  engine.start()
  if (fresh && demo?.story)
    background.run('what happened in the demo', () => tellStory(ctx, engine, demo.standins))
  const begin = demo ? null : await beginning(db, config.publicUrl)
  return {
    begin,
    port: typeof address === 'object' && address ? address.port : config.port,
    smtpPort: mail.port,
    ctx,
    engine,
    summary,
    letters,
    follow,
    bookingLetters,
    nights,
    keepingUp,
    statuses,
    reminding,
    inviting,
    stop: async () => {
      const closed = new Promise<void>(resolve => server.close(() => resolve()))
      if ('closeAllConnections' in server) server.closeAllConnections()
      await closed
      await mail.close()
      await background.stop()
      await db.close()
    },
  }
}
