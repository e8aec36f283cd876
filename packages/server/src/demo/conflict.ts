import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { PLAN_ANEW } from '../sync/rules/rules.ts'

/**
 * Something that waits for an answer, so that one sees how that is told: while the demo's rule rests for a
 * moment, the same task is renamed and moved at its list and in its calendar, through the services' own protocols.
 */
const TITLE = 'Label night beds'
const RENAMED = { task: 'Label the night beds', event: 'Label night beds 1 to 6' }
const LOOKS = 120
const LOOK_MS = 500

interface Pair {
  rule: string
  task: string
  list: string
  event: string
  etag: string
  original: string
  calendar: string
}

export async function makeConflict(ctx: Context, engine: Engine, standins: string): Promise<void> {
  const pair = await soon(() =>
    ctx.db.one<Pair>(
      `SELECT t.rule_id AS rule, a.remote_id AS task, a.connection_id AS list, b.remote_id AS event, b.revision AS etag,
         p.original, b.connection_id AS calendar
       FROM ties t JOIN mirrors a ON a.id = t.a_mirror JOIN mirrors b ON b.id = t.b_mirror
         JOIN payloads p ON p.mirror_id = b.id
       WHERE t.released IS NULL AND t.role = 'mirror' AND JSON_VALUE(a.item, '$.summary') = :title
         AND NOT EXISTS (SELECT 1 FROM intents i WHERE i.tie_id = t.id AND i.state = 'open') LIMIT 1`,
      { title: TITLE },
    ),
  )
  if (!pair) return
  await ctx.db.run(`UPDATE rules SET state = 'paused' WHERE id = :rule`, { rule: pair.rule })
  try {
    await fetch(`${standins}/bench/v1/tasks/${pair.task}`, {
      method: 'PATCH',
      headers: { Authorization: 'Bearer bench-key-ines', 'Content-Type': 'application/json' },
      body: JSON.stringify({ text: RENAMED.task, hour: '14:00' }),
    })
    await fetch(new URL(pair.event, standins), {
      method: 'PUT',
      headers: { Authorization: `Basic ${btoa('ines:moonflower')}`, 'Content-Type': 'text/calendar' },
      body: pair.original
        .replace(/^SUMMARY:.*?\r?$/m, `SUMMARY:${RENAMED.event}\r`)
        .replace(/(DTSTART;TZID.*T)\d+/, '$1163000')
        .replace(/(DTEND;TZID.*T)\d+/, '$1170000'),
    })
    await engine.look(pair.list)
    await engine.look(pair.calendar)
    await soon(() =>
      ctx.db.one(
        `SELECT a.id FROM mirrors a JOIN mirrors b ON b.connection_id = :calendar AND b.remote_id = :event
         WHERE a.connection_id = :list AND a.remote_id = :task AND JSON_VALUE(a.item, '$.summary') = :renamed
           AND JSON_VALUE(b.item, '$.summary') = :other`,
        { ...pair, renamed: RENAMED.task, other: RENAMED.event },
      ),
    )
  } finally {
    await ctx.db.run(`UPDATE rules SET state = 'on', ${PLAN_ANEW} WHERE id = :rule`, { rule: pair.rule })
  }
}

async function soon<T>(look: () => Promise<T | null>): Promise<T | null> {
  for (let i = 0; i < LOOKS; i++) {
    const found = await look()
    if (found) return found
    await new Promise(resolve => setTimeout(resolve, LOOK_MS))
  }
  return null
}
