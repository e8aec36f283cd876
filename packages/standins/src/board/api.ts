import { type Context, Hono } from 'hono'
import { isDay, objectIn } from '../body.ts'
import { buckets } from '../bucket.ts'
import type { FaultSwitch } from '../faults.ts'
import { hookFrom } from '../hooks.ts'
import type { Board, Crew, Order, OrderInput } from './state.ts'

/** Repairs Board's JSON interface. */

type Env = { Variables: { account: number } }
const PAGE = 20

/** Only what a client may set, of the right kinds; a sentence for anything else. */
function inputOf(body: Record<string, unknown>): OrderInput | string {
  const input: OrderInput = {}
  if ('title' in body) {
    if (typeof body.title !== 'string' || body.title.trim() === '') return 'title must not be empty'
    input.title = body.title.slice(0, 200)
  }
  if ('text' in body) input.text = String(body.text ?? '')
  if ('deadline' in body) {
    if (body.deadline !== null && !isDay(body.deadline)) return 'deadline must be a day'
    input.deadline = body.deadline
  }
  if ('urgency' in body) {
    const { urgency } = body
    if (urgency !== 'whenever' && urgency !== 'soon' && urgency !== 'at once') return 'urgency is not known'
    input.urgency = urgency
  }
  if ('half_days' in body) {
    if (body.half_days !== null && typeof body.half_days !== 'number') return 'half_days must be a number'
    input.half_days = body.half_days === null ? null : Math.max(1, Math.round(body.half_days))
  }
  if ('for' in body) {
    if (!Array.isArray(body.for)) return 'for must be a list of account numbers'
    input.for = body.for.map(Number)
  }
  return input
}

export function boardApi(board: Board, faults: FaultSwitch): Hono<Env> {
  const app = new Hono<Env>({ strict: false })
  const may = buckets(40, 20)

  app.use(async (c, next) => {
    const token = /^Bearer (.+)$/.exec(c.req.header('Authorization') ?? '')?.[1] ?? ''
    const known = board.state.tokens[token]
    if (!known || known.until < Date.now()) return c.json({ error: 'invalid_token' }, 401)
    if (!may(String(known.account))) return c.json({ error: 'slow down' }, 429, { 'Retry-After': '1' })
    c.set('account', known.account)
    await next()
    return undefined
  })

  const crewOf = (c: Context<Env>, no: string): Crew | undefined =>
    board.crewsOf(c.get('account')).find(crew => crew.no === no)
  const orderOf = (c: Context<Env>): Order | undefined => {
    const order = board.state.orders[c.req.param('number') ?? '']
    return order && crewOf(c, order.crew) ? order : undefined
  }
  const shown = (order: Order): object => ({
    ...order,
    stage_label:
      board.state.crews.find(c => c.no === order.crew)?.stages.find(s => s.code === order.stage)?.label ?? '',
  })

  app.get('/whoami', c => {
    const me = board.state.people.find(p => p.account_no === c.get('account'))
    return c.json({ ...me, time: new Date(faults.clock()).toISOString() })
  })
  app.get('/people', c => c.json({ people: board.state.people }))
  app.get('/crews', c =>
    c.json({
      crews: board.state.crews.map(crew => {
        const allowed = crew.seen_by.includes(c.get('account'))
        const open = board.ordersOf(crew.no).filter(o => !board.isShut(o)).length
        return {
          no: crew.no,
          title: crew.title,
          shade: crew.shade,
          allowed,
          ...(allowed ? { open, stages: crew.stages } : {}),
        }
      }),
    }),
  )
  app.get('/crews/:crew/orders', c => {
    const crew = crewOf(c, c.req.param('crew'))
    if (!crew) return c.json({ error: 'no such crew' }, 404)
    const after = c.req.query('changed_after')
    const all = board.ordersOf(crew.no).filter(o => !after || o.changed >= after)
    const page = Math.max(1, Number(c.req.query('page') ?? 1) || 1)
    const orders = all.slice((page - 1) * PAGE, page * PAGE)
    return c.json({
      page,
      pages: Math.max(1, Math.ceil(all.length / PAGE)),
      total: all.length,
      orders: faults.listed(orders).map(shown),
    })
  })
  app.get('/orders/:number', c => {
    const order = orderOf(c)
    return order ? c.json(shown(order)) : c.json({ error: 'no such order' }, 404)
  })
  app.post('/crews/:crew/orders', async c => {
    const crew = crewOf(c, c.req.param('crew'))
    if (!crew) return c.json({ error: 'no such crew' }, 404)
    const input = inputOf(await objectIn(c))
    return typeof input === 'string'
      ? c.json({ error: input }, 422)
      : c.json(shown(board.add(crew, input)), 201)
  })
  app.patch('/orders/:number', async c => {
    const order = orderOf(c)
    if (!order) return c.json({ error: 'no such order' }, 404)
    const input = inputOf(await objectIn(c))
    return typeof input === 'string'
      ? c.json({ error: input }, 422)
      : c.json(shown(board.change(order, input)))
  })
  app.post('/orders/:number/stage', async c => {
    const order = orderOf(c)
    if (!order) return c.json({ error: 'no such order' }, 404)
    const staged = board.stage(order, String((await objectIn(c)).code))
    return staged ? c.json(shown(staged)) : c.json({ error: 'this crew has no such stage' }, 422)
  })
  app.post('/orders/:number/move', async c => {
    const order = orderOf(c)
    const crew = crewOf(c, String((await objectIn(c)).crew))
    if (!order || !crew) return c.json({ error: 'no such order or crew' }, 404)
    return c.json(shown(board.move(order, crew)))
  })
  app.delete('/orders/:number', c => {
    const order = orderOf(c)
    if (!order) return c.json({ error: 'no such order' }, 404)
    board.remove(order)
    return c.body(null, 204)
  })
  app.post('/hooks', async c => {
    const made = hookFrom(await objectIn(c), board.state.hooks)
    if (!made) return c.json({ error: 'url and secret' }, 400)
    board.state.hooks = made.hooks
    board.store.save()
    return c.json({ id: made.hook.id }, 201)
  })
  return app
}
