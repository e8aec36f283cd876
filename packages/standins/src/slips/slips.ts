import { Hono } from 'hono'
import { now } from '../clock.ts'
import { objectIn } from '../body.ts'
import { Store } from '../store.ts'

/**
 * Seed Slips: a small service without a connector of its own. It is reached only through the description in
 * docs/examples, like a person's own task manager.
 */

export interface Slip {
  no: number
  drawer: string
  line: string
  remark: string | null
  /** 0 lying, 1 in hand, 2 planted, 9 thrown away. */
  standing: number
  /** Epoch seconds. */
  sow_at: number | null
  sow_before: number | null
  haste: 'slow' | 'quick'
  /** Hours. */
  takes: number | null
  owner: string | null
  edition: number
}

export interface SlipsState {
  slips: Slip[]
  seq: number
}

const DRAWERS = ['spring', 'autumn']
const LIMIT = 5

export function slipsSeed(): SlipsState {
  const state: SlipsState = { slips: [], seq: 0 }
  const noon = Math.floor(now() / 86_400_000) * 86_400 + 12 * 3600
  for (let i = 0; i < 13; i++)
    state.slips.push({
      no: ++state.seq,
      drawer: DRAWERS[i % 2] ?? 'spring',
      line: `Sow tray ${i + 1}`,
      remark: i % 3 ? null : 'By the warm wall.',
      standing: [0, 1, 0, 2, 9][i % 5] ?? 0,
      sow_at: i % 4 ? noon + i * 86_400 : null,
      sow_before: i % 3 ? null : noon + i * 86_400 * 2,
      haste: i % 2 ? 'quick' : 'slow',
      takes: i % 2 ? 1.5 : null,
      owner: ['m.okoro', 'r.quint', null][i % 3] ?? null,
      edition: 1,
    })
  return state
}

export function slipsApi(store: Store<SlipsState>): Hono {
  const app = new Hono({ strict: false })
  app.use(async (c, next) => {
    if (c.req.query('pass') !== undefined) return c.json({ why: 'not in the address, please' }, 400)
    if (c.req.header('Slips-Pass') !== 'seed-slips-pass') return c.json({ why: 'no pass' }, 401)
    await next()
    return undefined
  })
  app.get('/hello', c => c.json({ holder: { login: 'm.okoro', called: 'Mei Okoro' } }))
  app.get('/drawers', c =>
    c.json({
      drawers: DRAWERS.map(key => ({ key, called: `${key[0]?.toUpperCase()}${key.slice(1)} drawer` })),
    }),
  )
  app.get('/slips', c => {
    const all = store.value.slips.filter(s => s.drawer === c.req.query('drawer'))
    const skip = Number(c.req.query('skip') ?? 0) || 0
    return c.json({ slips: all.slice(skip, skip + LIMIT), all: all.length })
  })
  app.get('/slips/:no', c => {
    const slip = store.value.slips.find(s => s.no === Number(c.req.param('no')))
    return slip ? c.json({ slip }) : c.json({ why: 'no such slip' }, 404)
  })
  app.post('/slips', async c => {
    const given = await objectIn(c)
    const blank: Slip = {
      no: ++store.value.seq,
      drawer: '',
      line: '',
      remark: null,
      standing: 0,
      sow_at: null,
      sow_before: null,
      haste: 'slow',
      takes: null,
      owner: null,
      edition: 1,
    }
    const slip: Slip = { ...blank, ...(given as Partial<Slip>), no: blank.no, edition: 1 }
    if (!DRAWERS.includes(slip.drawer) || !slip.line)
      return c.json({ why: 'a drawer and a line are needed' }, 400)
    store.value.slips.push(slip)
    store.save()
    return c.json({ slip }, 201)
  })
  app.put('/slips/:no', async c => {
    const slip = store.value.slips.find(s => s.no === Number(c.req.param('no')))
    if (!slip) return c.json({ why: 'no such slip' }, 404)
    const { edition, ...set } = await objectIn(c)
    if (edition !== undefined && edition !== slip.edition) return c.json({ why: 'another edition' }, 409)
    Object.assign(slip, set, { no: slip.no, edition: slip.edition + 1 })
    store.save()
    return c.json({ slip })
  })
  app.delete('/slips/:no', c => {
    store.value.slips = store.value.slips.filter(s => s.no !== Number(c.req.param('no')))
    store.save()
    return c.body(null, 204)
  })
  return app
}
