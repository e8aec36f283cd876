import { join } from 'node:path'
import { type HttpBindings, serve } from '@hono/node-server'
import { Hono } from 'hono'
import { benchApi } from './bench/api.ts'
import { benchPage } from './bench/page.ts'
import { Bench } from './bench/state.ts'
import { boardApi } from './board/api.ts'
import { boardOAuth } from './board/oauth.ts'
import { boardPage } from './board/page.ts'
import { Board } from './board/state.ts'
import { chatApi, chatPage, chatSeed } from './chat/chat.ts'
import { faultForm, faultsNamed } from './fault-form.ts'
import { type Faults, FaultSwitch } from './faults.ts'
import { gardenDav } from './garden/dav.ts'
import { gardenPage } from './garden/page.ts'
import { Garden } from './garden/state.ts'
import { Notifier } from './hooks.ts'
import { identityProvider } from './identity/identity.ts'
import { mailApi, mailPage, mailSeed } from './mail/mail.ts'
import { mailboxPage, mailboxSeed, takeMail } from './mailbox/mailbox.ts'
import { page } from './page.ts'
import { pushService } from './push/push.ts'
import { registerApi } from './register/api.ts'
import { registerPage } from './register/page.ts'
import { Register } from './register/state.ts'
import { slipsApi, slipsSeed } from './slips/slips.ts'
import { Store } from './store.ts'
import type { Size } from './weeks.ts'
import { brokenFeed, visitsFeed, visitsPage, visitsSeed } from './visits/feed.ts'

export { now, weekDay } from './clock.ts'
export { ics } from './garden/ics.ts'
export { nextWorkday } from './weeks.ts'
export { Garden, type GardenState } from './garden/state.ts'

const SERVICES = {
  garden: 'Garden Calendars',
  visits: 'School Visits',
  bench: 'Bench List',
  board: 'Repairs Board',
  register: 'Plant Register',
  mail: 'Gatehouse Mail',
  chat: 'Gate Chat',
}
type Service = keyof typeof SERVICES
const isService = (name: string): name is Service => name in SERVICES

/** The small outside services that ship with the product, all on one port of the loopback. */
export function standins(
  folder: string,
  mailbox = new Store(join(folder, 'mailbox.json'), mailboxSeed),
  size: Size = 'small',
): Hono<{ Bindings: HttpBindings }> {
  const file = (name: string): string => join(folder, `${name}.json`)
  const garden = new Garden(file('garden'), size)
  const visits = new Store(file('visits'), visitsSeed)
  const bench = new Bench(file('bench'), size)
  const board = new Board(file('board'))
  const register = new Register(file('register'))
  const mail = new Store(file('mail'), mailSeed)
  const chat = new Store(file('chat'), chatSeed)
  const slips = new Store(file('slips'), slipsSeed)
  const switches = Object.fromEntries(Object.keys(SERVICES).map(s => [s, new FaultSwitch()])) as Record<
    Service,
    FaultSwitch
  >
  const form = (service: Service) => () => faultForm(service, switches[service])

  const benchHooks = new Notifier(switches.bench, () => bench.store.value.hooks, 'Bench-Signature')
  bench.onChange = task => benchHooks.tell({ list: task.list, task: task.id })
  const boardHooks = new Notifier(switches.board, () => board.state.hooks, 'Board-Seal')
  board.onChange = order => boardHooks.tell({ order })

  const app = new Hono<{ Bindings: HttpBindings }>({ strict: false })
  app.get('/', c => {
    const links = Object.entries(SERVICES).map(([s, name]) => `<li><a href="/${s}/page/">${name}</a></li>`)
    const note =
      'Simulated outside services for trying Amber Loom. What you change here, you change on the other side.'
    links.push('<li><a href="/mailbox/page/">Mailbox</a></li>')
    return c.html(page('Stand-ins', note, `<ul>${links.join('')}</ul>`))
  })
  app.all('/.well-known/caldav', c => c.redirect('/garden/dav/', 308))

  app.post('/control/reset', c => {
    const hooks = { bench: bench.store.value.hooks, board: board.state.hooks }
    const { tokens, refresh } = board.state
    for (const store of [garden.store, visits, bench.store, board.store, register.store, mail, chat, slips])
      store.reset()
    Object.assign(bench.store.value, { hooks: hooks.bench })
    // Who was signed in stays so.
    Object.assign(board.state, { hooks: hooks.board, tokens, refresh })
    bench.store.save()
    board.store.save()
    for (const s of Object.values(switches)) s.current = {}
    return c.json({ ok: true })
  })
  app.get('/control/:service/faults', c => {
    const service = c.req.param('service')
    return isService(service) ? c.json(switches[service].current) : c.json({ error: 'no such service' }, 404)
  })
  app.put('/control/:service/faults', async c => {
    const service = c.req.param('service')
    if (!isService(service)) return c.json({ error: 'no such service' }, 404)
    switches[service].current = await c.req.json<Faults>()
    return c.json(switches[service].current)
  })
  app.post('/control/:service/trouble', async c => {
    const service = c.req.param('service')
    const faults = faultsNamed(String((await c.req.parseBody()).trouble))
    if (!isService(service) || !faults) return c.text('There is no such trouble.', 404)
    switches[service].current = faults
    return c.redirect(`/${service}/page/`)
  })

  app.use('/garden/dav/*', switches.garden.middleware())
  app.use('/visits/spring-term.ics', switches.visits.middleware())
  app.use('/bench/v1/*', switches.bench.middleware())
  app.use('/board/api/*', switches.board.middleware())
  app.use('/register/r/*', switches.register.middleware())
  app.use('/mail/api/*', switches.mail.middleware())
  app.use('/chat/api/*', switches.chat.middleware())
  app.route('/garden/dav', gardenDav(garden, '/garden/dav', switches.garden))
  app.route('/garden/page', gardenPage(garden, form('garden')))
  app.route('/visits/page', visitsPage(visits, form('visits')))
  app.route('/visits', visitsFeed(visits, switches.visits))
  app.route('/visits', brokenFeed())
  app.route('/bench/v1', benchApi(bench, switches.bench))
  app.route('/bench/page', benchPage(bench, form('bench')))
  app.route('/board/oauth', boardOAuth(board))
  app.route('/board/api', boardApi(board, switches.board))
  app.route('/board/page', boardPage(board, form('board')))
  app.route('/register/r', registerApi(register, switches.register))
  app.route('/register/page', registerPage(register, form('register')))
  app.route('/mail/api', mailApi(mail, switches.mail))
  app.route('/mail/page', mailPage(mail, form('mail')))
  app.route('/chat/api', chatApi(chat, switches.chat))
  app.route('/chat/page', chatPage(chat, form('chat')))
  app.route('/mailbox', mailboxPage(mailbox))
  app.route('/slips', slipsApi(slips))
  app.route('/push', pushService())
  app.route('/identity', identityProvider('/identity'))
  return app
}

/** Listens on loopback for requests and for mail; resolves once it does. */
export async function listen(
  folder: string,
  port: number,
  mailPort = 0,
  size: Size = 'small',
): Promise<{ port: number; mailPort: number; close: () => Promise<void> }> {
  const mailbox = new Store(join(folder, 'mailbox.json'), mailboxSeed)
  const mail = await takeMail(mailbox, mailPort)
  return new Promise((resolve, reject) => {
    const server = serve(
      { fetch: standins(folder, mailbox, size).fetch, port, hostname: '127.0.0.1' },
      info =>
        resolve({
          port: info.port,
          mailPort: mail.port,
          close: async () => {
            await new Promise<void>(done => {
              server.close(() => done())
              if ('closeAllConnections' in server) server.closeAllConnections()
            })
            await mail.close()
          },
        }),
    )
    server.on('error', reject)
  })
}
