import { join } from 'node:path'
import { type HttpBindings, serve } from '@hono/node-server'
import { Hono } from 'hono'
import { benchApi } from './bench/api.ts'
import { notify } from './bench/hooks.ts'
import { benchPage } from './bench/page.ts'
import { Bench } from './bench/state.ts'
import { type Faults, FaultSwitch } from './faults.ts'
import { gardenDav } from './garden/dav.ts'
import { gardenPage } from './garden/page.ts'
import { Garden } from './garden/state.ts'
import { page } from './page.ts'

/** The small outside services that ship with the product, all on one port of the loopback. */
export function standins(folder: string): Hono<{ Bindings: HttpBindings }> {
  const garden = new Garden(join(folder, 'garden.json'))
  const bench = new Bench(join(folder, 'bench.json'))
  const switches = { garden: new FaultSwitch(), bench: new FaultSwitch() }
  const named = (name: string): FaultSwitch | undefined =>
    name === 'garden' || name === 'bench' ? switches[name] : undefined
  notify(bench, () => switches.bench.current.silent === true)

  const app = new Hono<{ Bindings: HttpBindings }>({ strict: false })
  app.get('/', c =>
    c.html(
      page(
        'Stand-ins',
        'Simulated outside services for trying Amber Loom. What you change here, you change on the other side.',
        '<ul><li><a href="/garden/page/">Garden Calendars</a></li><li><a href="/bench/page/">Bench List</a></li></ul>',
      ),
    ),
  )
  app.all('/.well-known/caldav', c => c.redirect('/garden/dav/', 308))

  app.post('/control/reset', c => {
    garden.store.reset()
    const { hooks } = bench.store.value
    bench.store.reset()
    bench.store.value.hooks = hooks
    bench.store.save()
    switches.garden.current = {}
    switches.bench.current = {}
    return c.json({ ok: true })
  })
  app.get('/control/:service/faults', c => c.json(named(c.req.param('service'))?.current ?? {}))
  app.put('/control/:service/faults', async c => {
    const target = named(c.req.param('service'))
    if (!target) return c.json({ error: 'no such service' }, 404)
    target.current = await c.req.json<Faults>()
    return c.json(target.current)
  })

  app.use('/garden/dav/*', switches.garden.middleware())
  app.use('/bench/v1/*', switches.bench.middleware())
  app.route('/garden/dav', gardenDav(garden, '/garden/dav'))
  app.route('/garden/page', gardenPage(garden))
  app.route('/bench/v1', benchApi(bench))
  app.route('/bench/page', benchPage(bench))
  return app
}

/** Listens on loopback; resolves once it does. */
export function listen(folder: string, port: number): Promise<{ port: number; close: () => Promise<void> }> {
  return new Promise((resolve, reject) => {
    const server = serve({ fetch: standins(folder).fetch, port, hostname: '127.0.0.1' }, info =>
      resolve({
        port: info.port,
        close: () =>
          new Promise(done => {
            server.close(() => done())
            if ('closeAllConnections' in server) server.closeAllConnections()
          }),
      }),
    )
    server.on('error', reject)
  })
}
