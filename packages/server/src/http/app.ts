import { Hono, type MiddlewareHandler } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { csrf } from 'hono/csrf'
import { HTTPException } from 'hono/http-exception'
import { secureHeaders } from 'hono/secure-headers'
import ipaddr from 'ipaddr.js'
import { Sessions } from '../access/sessions.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { clientAddressFor } from './client-address.ts'
import { caldavRoutes } from './caldav.ts'
import { categoryRoutes } from './categories.ts'
import { clothRoutes } from './cloth.ts'
import { commentRoutes } from './comments.ts'
import { commonTimeRoutes } from './common-time.ts'
import { connectingRoutes, consentRoute } from './connecting.ts'
import { connectionSettingsRoutes } from './connection-settings.ts'
import { connectionSignInRoutes } from './connection-sign-in.ts'
import { connectionRoutes } from './connections.ts'
import { fileRoutes, MAX_FILE } from './files.ts'
import { firstAsked } from './first-asked.ts'
import { guestRoutes } from './guest.ts'
import { hookRoutes } from './hooks.ts'
import { answerAgain, idempotent } from './idempotency.ts'
import { captureRoutes, doorRoutes } from './intake.ts'
import { journalRoutes } from './journal.ts'
import { linkRoutes } from './links.ts'
import { liveRoutes } from './live.ts'
import { feedRoutes } from './feed.ts'
import { planningRoutes } from './planning.ts'
import { type Following, offeredTimesRoutes } from './offered-times.ts'
import { offerRoutes } from './offers.ts'
import { presenceRoutes } from './presence.ts'
import { invitationRoutes } from './invitations.ts'
import { reminderRoutes } from './reminders.ts'
import { requestRoutes } from './requests.ts'
import { rulePaperRoutes } from './rule-papers.ts'
import { ruleRoutes } from './rules.ts'
import { meRoutes } from './me.ts'
import { accountRoutes } from './account.ts'
import { IdentityProvider, type ProviderTerms } from '../access/identity-provider.ts'
import { entryProviderRoutes } from './entry-provider.ts'
import { entryRoutes } from './entry.ts'
import { membersOnly, noReaders, sessionRoutes, type SessionTerms, type SignedIn } from './session.ts'
import { secondFactorRoutes } from './second-factor.ts'
import { sharingRoutes } from './sharing.ts'
import { teamRoutes } from './team.ts'
import { chatRoutes } from './chat.ts'
import { timeRoutes } from './time.ts'
import { tieRoutes } from './ties.ts'
import { viewRoutes } from './views.ts'
import { waitingRoutes } from './waiting.ts'
import { webFiles } from './web-files.ts'
import { BookingLetters } from '../offers/booking-letters.ts'
import { FollowBookings } from '../offers/follow-bookings.ts'
import { ping } from '../data/repositories/health.ts'

/** Everything under /api that only members may call. */
function memberRoutes(ctx: Context, engine: Engine, sessions: Sessions, terms: SessionTerms) {
  return (
    new Hono<SignedIn>()
      .use(membersOnly(sessions))
      .use(noReaders)
      // Before answers are kept: these hold what nobody else is to read.
      .route('/links', linkRoutes(ctx))
      .route('/team', teamRoutes(ctx, sessions))
      .route('/account/second', secondFactorRoutes(ctx))
      .route('/account', accountRoutes(ctx, sessions, terms))
      .route('/presence', presenceRoutes(ctx))
      .use(idempotent(ctx))
      .route('/categories', categoryRoutes(ctx))
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
      .route('/offers', offerRoutes(ctx))
      .route('/common-time', commonTimeRoutes(ctx, engine))
      .route('/planning', planningRoutes(ctx, engine))
      .route('/reminders', reminderRoutes(ctx))
      .route('/invitations', invitationRoutes(ctx, engine))
      .route('/chat', chatRoutes(ctx))
      .route('/time', timeRoutes(ctx))
      .route('/sharing', sharingRoutes(ctx))
      .route('/requests', requestRoutes(ctx, engine))
      .route('/comments', commentRoutes(ctx))
      .route('/views', viewRoutes(ctx))
      .route('/ties', tieRoutes(ctx, engine))
      .route('/waiting', waitingRoutes(ctx, engine))
      .route('/journal', journalRoutes(ctx, engine))
      .route('/live', liveRoutes(ctx, engine, sessions))
  )
}

export interface AppOptions {
  /** The folder of the built page; without it, only the interface is answered. */
  web: string | null
  trustedProxies: readonly string[]
  /** What brings bookings and calendars together; only looks by itself where it was started. */
  following?: Following
  /** The identity provider to sign in by; null where there is none. */
  identity?: ProviderTerms | null
}

const followingOf = (ctx: Context, engine: Engine): Following => ({
  follow: new FollowBookings(ctx, id => engine.kick(id)),
  letters: new BookingLetters(ctx),
})

function apiRoutes(
  ctx: Context,
  engine: Engine,
  sessions: Sessions,
  { trustedProxies, identity = null, following = followingOf(ctx, engine) }: AppOptions,
) {
  const provider = identity && new IdentityProvider(identity, `${ctx.publicUrl}/api/entry/provider/back`)
  const { origin, protocol } = new URL(ctx.publicUrl)
  const terms = { now: ctx.now, addressOf: clientAddressFor(trustedProxies), secure: protocol === 'https:' }
  const files = bodyLimit({ maxSize: 2 * MAX_FILE })
  const others = bodyLimit({ maxSize: 1_000_000 })
  return new Hono()
    .get('/health', async c => {
      try {
        await ping(ctx.db)
        return c.json({ ok: true })
      } catch {
        return c.json({ ok: false }, 503)
      }
    })
    .use(noStore)
    .use(csrf({ origin: (from, c) => from === origin || from === new URL(c.req.url).origin }))
    .use((c, next) => {
      // Who asks whether there is a body makes one: a fifth of what it takes to answer.
      if (c.req.method === 'GET') return next()
      return c.req.path.startsWith('/api/files/') ? files(c, next) : others(c, next)
    })
    .route('/session', sessionRoutes(sessions, terms))
    .route('/guest', guestRoutes(ctx, terms))
    .route('/times', offeredTimesRoutes(ctx, engine, terms, following))
    .route('/entry/provider', entryProviderRoutes(ctx, sessions, terms, provider))
    .route('/entry', entryRoutes(ctx, sessions, terms, provider?.terms.name ?? null))
    .route('/', memberRoutes(ctx, engine, sessions, terms))
}

export type Api = ReturnType<typeof apiRoutes>

/** Answers are about one person, and old ones about nothing. */
const noStore: MiddlewareHandler = async (c, next) => {
  await next()
  c.res.headers.set('Cache-Control', 'no-store')
}

/** Names by which we are reached: the public one and this machine. An address in numbers cannot be pointed elsewhere. */
function onlyOurNames(publicUrl: string): MiddlewareHandler {
  const ours = new Set([new URL(publicUrl).hostname, 'localhost'])
  return async (c, next) => {
    const host = new URL(c.req.url).hostname
    if (!ours.has(host) && !ipaddr.isValid(host.replace(/^\[|\]$/g, '')))
      return c.text('This server is not called that.', 421)
    await next()
    return undefined
  }
}

/** @param frameAncestors the pages that may show ours in a frame */
const headersOf = (publicUrl: string, frameAncestors: string[]): MiddlewareHandler =>
  secureHeaders({
    contentSecurityPolicy: {
      defaultSrc: ["'self'"],
      styleSrc: ["'self'", "'unsafe-inline'"],
      imgSrc: ["'self'", 'data:'],
      objectSrc: ["'none'"],
      baseUri: ["'self'"],
      formAction: ["'self'"],
      frameAncestors,
    },
    // Older browsers go by this one; it knows no list.
    xFrameOptions: frameAncestors.includes('*') ? false : 'SAMEORIGIN',
    // Said only where people reach us by https: else a browser would never find the plain address again.
    strictTransportSecurity: publicUrl.startsWith('https:') ? 'max-age=31536000' : false,
  })

export function makeApp(ctx: Context, engine: Engine, options: AppOptions): Hono {
  const app = new Hono()
  const sessions = new Sessions(ctx.db)
  app.use(onlyOurNames(ctx.publicUrl))
  const [closed, framed] = [headersOf(ctx.publicUrl, ["'none'"]), headersOf(ctx.publicUrl, ['*'])]
  // A wall screen shows what its address opens and has nothing to press: it may stand in a frame of any page.
  app.use((c, next) => (c.req.path === '/wall' ? framed(c, next) : closed(c, next)))
  app.onError(async (error, c) => {
    if (error instanceof HTTPException) return error.getResponse()
    const again = await answerAgain(ctx, c, error)
    if (again) return again
    // Some addresses are secrets.
    const path = c.req.path.replace(/[0-9a-f]{32,}/gi, '…')
    ctx.log.error({ err: error, path }, 'a request failed')
    return c.json({ reason: 'Something went wrong here. What you typed is still there; try again.' }, 500)
  })
  app.route('/hooks', hookRoutes(ctx, engine))
  const consent = new Hono<SignedIn>().use(membersOnly(sessions)).route('/', consentRoute(ctx))
  app.route('/consent', consent)
  app.route('/feed', feedRoutes(ctx, clientAddressFor(options.trustedProxies)))
  app.route('/dav', caldavRoutes(ctx, clientAddressFor(options.trustedProxies)))
  // RFC 6764 §5: where a program that knows only our name begins.
  app.all('/.well-known/caldav', c => c.redirect('/dav/', 301))
  app.route('/capture', captureRoutes(ctx, engine))
  app.route('/api', apiRoutes(ctx, engine, sessions, options))
  app.all('/api/*', c => c.json({ reason: 'There is no such address.' }, 404))
  if (options.web) {
    for (const path of ['/', '/cloth']) app.get(path, firstAsked(ctx, sessions))
    app.route('/', webFiles(options.web))
  }
  return app
}
