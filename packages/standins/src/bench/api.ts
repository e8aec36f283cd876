import { type Context, Hono } from 'hono'
import { buckets } from '../bucket.ts'
import type { FaultSwitch } from '../faults.ts'
import { hookFrom } from '../hooks.ts'
import type { Bench, BenchTask, Outcome, TaskInput } from './state.ts'

/** Bench List's JSON interface, version 1. */

type Env = { Variables: { key: string } }
const PAGE = 50
const MAX_BATCH = 20

const shown = ({ ref, ...task }: BenchTask): object => ({ ...task, rev: String(task.rev), ref })

/** Only what a client may set, of the right kinds; null for a body that is something else. */
function inputOf(body: unknown): TaskInput | null {
  if (typeof body !== 'object' || body === null || Array.isArray(body)) return null
  const given = body as Record<string, unknown>
  const kinds: Record<string, (v: unknown) => boolean> = {
    text: v => typeof v === 'string',
    details: v => typeof v === 'string',
    list: v => typeof v === 'string',
    day: v => v === null || typeof v === 'string',
    hour: v => v === null || typeof v === 'string',
    finish_by: v => v === null || typeof v === 'string',
    weight: v => typeof v === 'number',
    marks: v => Array.isArray(v) && v.every(x => typeof x === 'string'),
    part_of: v => v === null || typeof v === 'string',
    again: v => v === null || v === 'day' || v === 'week',
    ticked: v => typeof v === 'boolean',
  }
  const input: Record<string, unknown> = {}
  for (const [name, right] of Object.entries(kinds)) {
    if (!(name in given)) continue
    if (!right(given[name])) return null
    input[name] = given[name]
  }
  return input as TaskInput
}

export function benchApi(bench: Bench, faults: FaultSwitch): Hono<Env> {
  const app = new Hono<Env>({ strict: false })
  const may = buckets(30, 20)
  const lists = (key: string) => bench.store.value.lists.filter(l => l.account === key)

  app.use(async (c, next) => {
    const key = /^Bearer (.+)$/.exec(c.req.header('Authorization') ?? '')?.[1] ?? ''
    if (!bench.store.value.accounts[key]) return c.json({ error: 'unknown access key' }, 401)
    if (!may(key)) return c.json({ error: 'too many requests' }, 429, { 'Retry-After': '1' })
    c.set('key', key)
    await next()
    return undefined
  })

  const answer = (c: Context<Env>, outcome: Outcome): Response => {
    if (outcome.status === 204) return c.body(null, 204)
    return 'task' in outcome
      ? c.json(shown(outcome.task), outcome.status)
      : c.json({ error: outcome.error }, outcome.status)
  }
  const revOf = (c: Context<Env>): number | null => {
    const given = c.req.header('If-Match')
    return given === undefined ? null : Number(given.replace(/"/g, ''))
  }

  app.get('/me', c => c.json(bench.store.value.accounts[c.get('key')] ?? {}))
  app.get('/lists', c =>
    c.json({
      lists: lists(c.get('key')).map(({ id, name, colour, within }) => ({
        id,
        name,
        colour,
        within,
        open: bench.seen().listed(id).length,
        token: bench.seen(faults.listedAt()).token(id),
      })),
    }),
  )
  app.get('/lists/:list/tasks', c => {
    const list = c.req.param('list')
    if (!lists(c.get('key')).some(l => l.id === list)) return c.json({ error: 'no such list' }, 404)
    const seen = bench.seen(faults.listedAt())
    const token = seen.token(list)
    const all = seen.listed(list).sort((x, y) => (x.id < y.id ? -1 : 1))
    const after = c.req.query('after') ?? ''
    const rest = all.filter(t => t.id > after)
    const tasks = rest.slice(0, PAGE)
    const next = rest.length > PAGE ? (tasks.at(-1)?.id ?? null) : null
    return c.json({ tasks: faults.listed(tasks).map(shown), next, token })
  })
  app.get('/lists/:list/changes', c => {
    const list = c.req.param('list')
    if (!lists(c.get('key')).some(l => l.id === list)) return c.json({ error: 'no such list' }, 404)
    const seen = bench.seen(faults.listedAt())
    const token = seen.token(list)
    const ids = faults.current.staleToken ? null : seen.changedSince(list, c.req.query('since') ?? '')
    if (!ids) return c.json({ error: 'this token was not given out here' }, 410)
    const tasks = ids.flatMap(id => seen.tasks[id] ?? []).filter(t => t.list === list && !t.ticked)
    const here = new Set(tasks.map(t => t.id))
    return c.json({ token, tasks: tasks.map(shown), left: ids.filter(id => !here.has(id)) })
  })
  app.get('/tasks/:id', c => {
    const task = bench.store.value.tasks[c.req.param('id')]
    return task ? c.json(shown(task)) : c.json({ error: 'no such task' }, 404)
  })
  app.post('/lists/:list/tasks', async c => {
    const body: unknown = await c.req.json().catch(() => null)
    const input = inputOf(body)
    if (!input) return c.json({ error: 'not a task' }, 400)
    const ref = (body as { ref?: unknown }).ref
    return answer(c, bench.add(c.req.param('list'), input, typeof ref === 'string' ? ref : null))
  })
  app.patch('/tasks/:id', async c => {
    const input = inputOf(await c.req.json().catch(() => null))
    return input
      ? answer(c, bench.change(c.req.param('id'), input, revOf(c)))
      : c.json({ error: 'not a task' }, 400)
  })
  app.delete('/tasks/:id', c => answer(c, bench.remove(c.req.param('id'), revOf(c))))

  /** Several changes in one call; each has its own outcome. */
  app.post('/batch', async c => {
    const body = (await c.req.json().catch(() => null)) as { changes?: unknown } | null
    if (!Array.isArray(body?.changes) || body.changes.length > MAX_BATCH)
      return c.json({ error: `changes: a list of up to ${MAX_BATCH}` }, 400)
    const results = (body.changes as Record<string, unknown>[]).map(change => {
      const rev = typeof change.rev === 'string' ? Number(change.rev) : null
      const id = String(change.id ?? '')
      const input = inputOf(change.set ?? {})
      const wrong: Outcome = { status: 422, error: 'not a change' }
      const outcome: Outcome =
        change.op === 'add' && input
          ? bench.add(String(change.list ?? ''), input, typeof change.ref === 'string' ? change.ref : null)
          : change.op === 'change' && input
            ? bench.change(id, input, rev)
            : change.op === 'remove'
              ? bench.remove(id, rev)
              : wrong
      return 'task' in outcome ? { status: outcome.status, task: shown(outcome.task) } : outcome
    })
    return c.json({ results })
  })

  app.post('/hooks', async c => {
    const made = hookFrom(await c.req.json().catch(() => null), bench.store.value.hooks)
    if (!made) return c.json({ error: 'url and secret' }, 400)
    bench.store.value.hooks = made.hooks
    bench.store.save()
    return c.json({ id: made.hook.id }, 201)
  })
  return app
}
