import { type Item, type ItemPatch, splitMark, zoned } from '../../src/index.ts'
import { renewAnswers } from './people.ts'
import { HOURS, type What } from './steps.ts'
import { LABELS } from './titles.ts'
import { type World, ZONE } from './world.ts'

/** What the steps of a history have in common: what an edit is, how things come to rest, and what is counted. */

export const tally = {
  histories: 0,
  edits: 0,
  editsHere: 0,
  deletions: 0,
  moves: 0,
  copies: 0,
  passes: 0,
  faults: 0,
  conflicts: 0,
  toAndFro: 0,
  refusedHere: 0,
  asked: 0,
  undone: 0,
  pauses: 0,
  closures: 0,
  ruleEdits: 0,
  advances: 0,
  writes: 0,
  rings: 0,
  returns: 0,
  backups: 0,
}

/** What an edit is in the terms of the item; null where it is none. */
export function patchFor(
  present: Item,
  what: What,
  s: { at: number; pick: number; title: string },
): ItemPatch | null {
  const local = HOURS[s.at] ?? ''
  if (what === 'retitle') return { summary: s.title }
  if (what === 'note') return { description: s.pick % 2 ? s.title : `${s.title} ` }
  if (what === 'rank') return { priority: [0, 1, 5, 9][s.at] ?? 0 }
  if (what === 'label') return { categories: LABELS.filter((_, n) => (s.pick >> n) % 2 === 1) }
  if (present.kind === 'task') {
    if (what === 'move') return { start: zoned(local, ZONE) }
    if (what === 'no-hour') return { start: s.pick % 2 ? null : { kind: 'date', date: '2026-11-26' } }
    return { status: what === 'complete' ? 'completed' : 'needs-action' }
  }
  const plain = splitMark(present.summary, '✓').title
  const anchor = zoned(local, s.pick % 3 === 0 || local.includes('T02') ? 'Asia/Kathmandu' : ZONE)
  if (what === 'move') return { time: { anchor, minutes: 15 * (1 + s.at) } }
  if (what === 'no-hour') return { time: { anchor: { kind: 'date', date: '2026-11-27' }, minutes: 1440 } }
  return { summary: what === 'complete' ? `✓ ${plain}` : plain }
}

export const hasRobots = (world: World): boolean =>
  Object.values(world.services).some(s => s.can.robot !== 'none')

/** Rounds enough for everything to come to rest, also where something sets back what rules write. */
export function rest(world: World): void {
  const rounds = 3 + 2 * world.rules.length + (hasRobots(world) ? 6 : 0)
  for (let round = 0; round < rounds; round++) {
    world.pass()
    renewAnswers(world)
  }
}

/** Everything is open again, and every rule goes on. */
export function reopen(world: World): void {
  for (const s of Object.values(world.services)) s.closed = 'no'
  world.paused.clear()
}
