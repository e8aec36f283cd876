import type { Context } from '../context/context.ts'
import {
  type DemoTask,
  moveEntry,
  numbersStand,
  countGone,
  tiedTasks,
  writesOfEveryRule,
} from '../data/repositories/demo.ts'
import { pauseRule, resumeRule } from '../data/repositories/rules.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { makeConflict } from './conflict.ts'
import { soon } from './soon.ts'
import { workspacesAtWork } from '../data/repositories/nights.ts'
import { keepLedger } from './ledger.ts'
import { talk } from './talk.ts'

/**
 * Makes the demo's past: ten weeks of completed work, a task that two people changed, and removals on hold. All of
 * it is done at the services, through their own protocols, and synced by the rules; only the journal's times are
 * moved back.
 */
export async function tellStory(ctx: Context, engine: Engine, standins: string): Promise<void> {
  await doTheWork(ctx, engine, standins)
  await makeConflict(ctx, engine, standins)
  await talk(ctx)
  for (const { id } of await workspacesAtWork(ctx.db)) await keepLedger(ctx, id)
  await dropLessons(ctx, engine, standins)
}

const HOUR = 3_600_000
const DAY = 24 * HOUR
const KEYS = { 'Volunteer jobs': 'bench-key-rafael', 'Teaching prep': 'bench-key-mei' } as const
const LISTS = ['Volunteer jobs', 'Teaching prep'] as const
/** As many are tied, once the first passes are through. */
const AT_LEAST = 20
/** Every eighth was not done. */
const LEFT_EVERY = 8

const timeOf = (task: DemoTask): number =>
  task.startMs ?? (task.due === null ? Infinity : Date.parse(task.due))

async function bench(standins: string, list: keyof typeof KEYS, method: string, id: string, body?: object) {
  await fetch(`${standins}/bench/v1/tasks/${id}`, {
    method,
    headers: { Authorization: `Bearer ${KEYS[list]}`, 'Content-Type': 'application/json' },
    ...(body && { body: JSON.stringify(body) }),
  })
}

async function doTheWork(ctx: Context, engine: Engine, standins: string): Promise<void> {
  const today = Math.floor(ctx.now() / DAY) * DAY
  for (const list of LISTS) {
    const tied = async (): Promise<DemoTask[] | null> => {
      const found = await tiedTasks(ctx.db, { list })
      return found.length >= AT_LEAST ? found : null
    }
    const tasks = [...((await soon(tied)) ?? [])].sort((x, y) => timeOf(x) - timeOf(y))
    const done = tasks.filter(t => timeOf(t) < today).filter((_, i) => i % LEFT_EVERY !== LEFT_EVERY - 1)
    for (const { remoteId } of done) await bench(standins, list, 'PATCH', remoteId, { ticked: true })
    const [first] = tasks
    if (first) await engine.look(first.connection)
    // More may have been tied meanwhile.
    const ids = new Set(done.map(t => t.remoteId))
    await soon(async () => !(await tiedTasks(ctx.db, { list })).some(t => ids.has(t.remoteId)) || null)
  }
  await moveJournalBack(ctx)
}

/** Work was put into the calendar some days before it, and marked as done on its evening. */
async function moveJournalBack(ctx: Context): Promise<void> {
  const now = ctx.now()
  await ctx.db.commit(async sql => {
    const entries = await writesOfEveryRule(sql)
    const then = entries.map(({ id, op, at, when }) => {
      const jitter = ((id * 37) % 97) / 97
      const about = when === null ? at : op === 'create' ? when - 6 * DAY : when + 4 * HOUR
      return { id, at: Math.min(about + jitter * 3 * HOUR, now - jitter * 5 * DAY - HOUR) }
    })
    const numbers = entries.map(e => e.id)
    for (const [i, { id, at }] of then.sort((x, y) => x.at - y.at).entries())
      await moveEntry(sql, { id, to: numbers[i] ?? id, at: Math.round(at) })
    await numbersStand(sql)
  })
}

/**
 * Removes so many deadlines at once that it looks like a mistake, so their removal in the calendar waits for a
 * person. The rule is paused meanwhile, so that it sees them together.
 */
async function dropLessons(ctx: Context, engine: Engine, standins: string): Promise<void> {
  const tasks = await soon(async () => {
    const found = await tiedTasks(ctx.db, { list: 'Teaching prep' })
    return found.length > 0 ? found : null
  })
  const ahead = (tasks ?? []).filter(t => timeOf(t) > ctx.now())
  const [first] = ahead
  if (!first) return
  await pauseRule(ctx.db, first)
  try {
    for (const { remoteId } of ahead) await bench(standins, 'Teaching prep', 'DELETE', remoteId)
    await engine.look(first.connection)
    const ids = ahead.map(t => t.remoteId)
    await soon(async () => Number((await countGone(ctx.db, { ids }))?.n) === ids.length || null)
  } finally {
    await resumeRule(ctx.db, first)
  }
}
