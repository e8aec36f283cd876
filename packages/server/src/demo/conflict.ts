import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { soon } from './soon.ts'
import { pairTitled, bothRenamed } from '../data/repositories/demo.ts'
import { pauseRule, resumeRule } from '../data/repositories/rules.ts'

/**
 * Makes a conflict for the demo. While the demo's rule is paused for a moment, one task is renamed and moved at
 * its list and in its calendar, through the services' own protocols.
 */
const TITLE = 'Label night beds'
const RENAMED = { task: 'Label the night beds', event: 'Label night beds 1 to 6' }

export async function makeConflict(ctx: Context, engine: Engine, standins: string): Promise<void> {
  const pair = await soon(() => pairTitled(ctx.db, { title: TITLE }))
  if (!pair) return
  await pauseRule(ctx.db, { rule: pair.rule })
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
    await soon(() => bothRenamed(ctx.db, { ...pair, renamed: RENAMED.task, other: RENAMED.event }))
  } finally {
    await resumeRule(ctx.db, { rule: pair.rule })
  }
}
