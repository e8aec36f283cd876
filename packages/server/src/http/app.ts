import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { csrf } from 'hono/csrf'
import { HTTPException } from 'hono/http-exception'
import { secureHeaders } from 'hono/secure-headers'
import { Sessions } from '../access/sessions.ts'
import type { Context } from '../sync/context.ts'
import type { Engine } from '../sync/engine.ts'
import { clothRoutes } from './cloth.ts'
import { connectingRoutes, consentRoute } from './connecting.ts'
import { connectionSettingsRoutes } from './connection-settings.ts'
import { connectionSignInRoutes } from './connection-sign-in.ts'
import { connectionRoutes } from './connections.ts'
import { fileRoutes, MAX_FILE } from './files.ts'
import { hookRoutes } from './hooks.ts'
import { captureRoutes, doorRoutes } from './intake.ts'
import { journalRoutes } from './journal.ts'
import { liveRoutes } from './live.ts'
import { rulePaperRoutes } from './rule-papers.ts'
import { ruleRoutes } from './rules.ts'
import { meRoutes } from './me.ts'
import { membersOnly, sessionRoutes, type SignedIn } from './session.ts'
import { viewRoutes } from './views.ts'
import { waitingRoutes } from './waiting.ts'
import { webFiles } from './web-files.ts'

/** Everything under /api that only members may call. */
function memberRoutes(ctx: Context, engine: Engine, sessions: Sessions) {
  return new Hono<SignedIn>()
    .use(membersOnly(sessions))
    .route('/cloth', clothRoutes(ctx, engine))
    .route('/connections', connectionRoutes(ctx, engine))
    .route('/connections', connectionSettingsRoutes(ctx, engine))
    .route('/connections', connectionSignInRoutes(ctx, engine))
    .route('/connecting', connectingRoutes(ctx, engine))
    .route('/doors', doorRoutes(ctx))
    .route('/files', fileRoutes(ctx, engine))
    .route('/rules', ruleRoutes(ctx, engine))
    .route('/rules', rulePaperRoutes(ctx))
    .route('/me', meRoutes(ctx))
    .route('/views', viewRoutes(ctx))
    .route('/waiting', waitingRoutes(ctx, engine))
    .route('/journal', journalRoutes(ctx, engine))
    .route('/live', liveRoutes(ctx, engine))
}

function apiRoutes(ctx: Context, engine: Engine) {
  const sessions = new Sessions(ctx.db)
  const files = bodyLimit({ maxSize: 2 * MAX_FILE })
  const others = bodyLimit({ maxSize: 1_000_000 })
  return new Hono()
    .get('/health', async c => {
      try {
        await ctx.db.one('SELECT 1 AS ok')
        return c.json({ ok: true })
      } catch {
        return c.json({ ok: false }, 503)
      }
    })
    .use(csrf())
    .use((c, next) => {
      // Who asks whether there is a body makes one: a fifth of what it takes to answer.
      if (c.req.method === 'GET') return next()
      return c.req.path.startsWith('/api/files/') ? files(c, next) : others(c, next)
    })
    .route('/session', sessionRoutes(sessions, ctx.now))
    .route('/', memberRoutes(ctx, engine, sessions))
}

export type Api = ReturnType<typeof apiRoutes>

/** Without `web`, the folder of the built page, it answers the interface only. */
export function makeApp(ctx: Context, engine: Engine, web: string | null): Hono {
  const app = new Hono()
  app.use(
    secureHeaders({
      contentSecurityPolicy: {
        defaultSrc: ["'self'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:'],
        frameAncestors: ["'none'"],
      },
    }),
  )
  app.onError((error, c) => {
    if (error instanceof HTTPException) return error.getResponse()
    ctx.log.error({ err: error, path: c.req.path }, 'a request failed')
    return c.json({ reason: 'Something went wrong here. What you typed is still there; try again.' }, 500)
  })
  app.route('/hooks', hookRoutes(ctx, engine))
  const consent = new Hono<SignedIn>().use(membersOnly(new Sessions(ctx.db))).route('/', consentRoute(ctx))
  app.route('/consent', consent)
  app.route('/capture', captureRoutes(ctx, engine))
  app.route('/api', apiRoutes(ctx, engine))
  app.all('/api/*', c => c.json({ reason: 'There is no such address.' }, 404))
  if (web) app.route('/', webFiles(web))
  return app
}
