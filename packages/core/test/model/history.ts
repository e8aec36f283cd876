import { expect } from 'chai'
import fc from 'fast-check'
import {
  defaultSettings,
  type Item,
  type ItemPatch,
  type RuleSettings,
  splitMark,
  zoned,
} from '../../src/index.ts'
import type { Bug } from './bugs.ts'
import { mustHold, nothingFlaps } from './oracle.ts'
import { answer, conflicts, editHere, renewAnswers, undo } from './people.ts'
import type { Capabilities } from './service.ts'
import { type Fault, type Name, NAMES, type PassTerms, World, type WorldOptions, ZONE } from './world.ts'

/** Random services, rules, histories and faults, and one such history lived through. */

export const HOURS = [
  '2026-11-25T10:00:00',
  '2026-11-26T14:30:00',
  '2026-11-27T09:15:00',
  '2026-12-01T16:00:00',
]
const FAULTS: Fault[] = [
  'none',
  'none',
  'none',
  'answer-lost',
  'never-arrived',
  'late-effect',
  'edited-after',
  'edited-between',
  'crash-before',
  'crash',
  'batch-cut',
  'twice',
]

type What = 'retitle' | 'move' | 'complete' | 'reopen' | 'no-hour' | 'note'
interface Edit {
  do: What | 'delete' | 'elsewhere'
  side: number
  pick: number
  at: number
  title: string
}
export type Step =
  | { do: 'add'; side: number; title: string; at: number; repeats: boolean }
  | Edit
  | { do: 'pass'; faults: Fault[]; early: boolean; overtaken: boolean; stops: PassTerms['stops'] }
  | { do: 'undo' | 'answer' | 'pause'; pick: number; side: number }
  /** An edit in our own screens. */
  | { do: 'here'; what: What; side: number; pick: number; at: number; title: string }
  /** Two people edit the two sides of one pair, one shortly after the other. */
  | { do: 'clash'; pick: number; side: number; what: 'retitle' | 'note'; title: string }
  /** Access is taken away, or given back. */
  | { do: 'close'; side: number; how: 'revoked' | 'vanished' }
  | { do: 'rule'; settings: Partial<RuleSettings> }

const title = fc.oneof(
  fc.constantFrom(
    'Boiler valve',
    '✓ odd one',
    '✓',
    ' spaces ',
    'A title that is longer than twenty characters',
  ),
  fc.string({ minLength: 1, maxLength: 30, unit: 'grapheme' }),
)
const at = fc.nat({ max: HOURS.length - 1 })
const side = fc.nat({ max: 2 })
const pick = fc.nat({ max: 20 })
const way = fc.constantFrom('both' as const, 'both' as const, 'a-to-b' as const, 'once' as const)

export const settings: fc.Arbitrary<Partial<RuleSettings>> = fc.record({
  fields: fc
    .record({ title: way, notes: way, completion: fc.constantFrom('both' as const, 'a-to-b' as const) })
    .map(f => ({ ...defaultSettings.fields, ...f })),
  fallback: fc.constantFrom('a' as const, 'b' as const),
  firstWinner: fc.constantFrom('a' as const, 'b' as const),
  conflict: fc.constantFrom('newest' as const, 'newest' as const, 'a' as const, 'b' as const, 'ask' as const),
  completed: fc.constantFrom(
    'mark' as const,
    'mark' as const,
    'keep' as const,
    'end' as const,
    'remove' as const,
  ),
  noHour: fc.constantFrom('none' as const, 'none' as const, 'all-day' as const, 'hour' as const),
  title: fc.constantFrom('{title}', '{title}', 'Bench: {title}', '{title} (bench)'),
  deleted: fc.record({
    a: fc.constantFrom(
      'deleted' as const,
      'left' as const,
      'again' as const,
      'cancelled' as const,
      'completed' as const,
    ),
    b: fc.constantFrom(
      'undated' as const,
      'deleted' as const,
      'left' as const,
      'again' as const,
      'completed' as const,
    ),
  }),
  neverLoses: fc.record({ a: fc.boolean(), b: fc.boolean() }),
  made: fc.record({ a: fc.constant('all' as const), b: fc.constantFrom('new' as const, 'nothing' as const) }),
})

const capabilities = (kind: Capabilities['kind']): fc.Arbitrary<Capabilities> =>
  fc.record({
    kind: fc.constant(kind),
    titleMax: fc.constantFrom(kind === 'task' ? 20 : null, null),
    minutesOnly: fc.constant(kind === 'task'),
    trimsNotes: fc.boolean(),
    skew: fc.constantFrom(0, 40_000, -40_000),
    grain: fc.constantFrom(1, 1000),
    listing: fc.constantFrom('true' as const, 'true' as const, 'late' as const, 'forgetful' as const),
    hidesDone: fc.boolean(),
    choosesIds: fc.boolean(),
    revisions: fc.constantFrom('counted' as const, 'counted' as const, 'content' as const),
    preconditions: fc.constantFrom(true, true, false),
    moves: fc.constantFrom('keeps-id' as const, 'new-id' as const),
    wide: fc.boolean(),
    robot: fc.constantFrom(
      'none' as const,
      'none' as const,
      'none' as const,
      'capitals' as const,
      'notes' as const,
    ),
  })
const mapped = <K extends string, V>(of: Record<K, V>, change: (v: V) => V): Record<K, V> =>
  Object.fromEntries(Object.entries<V>(of).map(([k, v]) => [k, change(v)])) as Record<K, V>

/** A task list and a calendar, two lists, two calendars, or a ring of two lists and a calendar. */
export const shape: fc.Arbitrary<WorldOptions> = fc.oneof(
  {
    weight: 6,
    arbitrary: fc
      .record({ a: capabilities('task'), b: capabilities('event') })
      .map(services => ({ services })),
  },
  {
    weight: 2,
    arbitrary: fc
      .record({ a: capabilities('task'), b: capabilities('task') })
      .map(services => ({ services })),
  },
  {
    weight: 1,
    arbitrary: fc
      .record({ a: capabilities('event'), b: capabilities('event') })
      .map(services => ({ services })),
  },
  {
    weight: 2,
    arbitrary: fc
      .record({ a: capabilities('task'), b: capabilities('event'), c: capabilities('task') })
      .map(services => ({
        services: mapped(services, s => ({ ...s, robot: 'none' as const })),
        rules: RING,
      })),
  },
)
const PLAIN: Partial<RuleSettings> = { ...defaultSettings, made: { a: 'all', b: 'nothing' } }
const RING: NonNullable<WorldOptions['rules']> = [
  {
    id: 'lists',
    a: 'a',
    b: 'c',
    settings: { ...PLAIN, made: { a: 'all', b: 'all' }, deleted: { a: 'deleted', b: 'deleted' } },
  },
  { id: 'one', a: 'a', b: 'b', settings: PLAIN },
  { id: 'other', a: 'c', b: 'b', settings: PLAIN },
]

export const step: fc.Arbitrary<Step> = fc.oneof(
  {
    weight: 3,
    arbitrary: fc.record({ do: fc.constant('add' as const), side, title, at, repeats: fc.boolean() }),
  },
  {
    weight: 8,
    arbitrary: fc.record({
      do: fc.constantFrom(
        'retitle',
        'retitle',
        'move',
        'complete',
        'reopen',
        'delete',
        'elsewhere',
        'no-hour',
        'note',
      ) as fc.Arbitrary<Edit['do']>,
      side,
      pick,
      at,
      title,
    }),
  },
  {
    weight: 5,
    arbitrary: fc.record({
      do: fc.constant('pass' as const),
      faults: fc.array(fc.constantFrom(...FAULTS), { maxLength: 6 }),
      early: fc.boolean(),
      overtaken: fc.boolean(),
      stops: fc.constantFrom(null, null, null, null, 'observed' as const, 'planned' as const),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constantFrom(
        'undo' as const,
        'undo' as const,
        'answer' as const,
        'answer' as const,
        'pause' as const,
      ),
      pick,
      side,
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('here' as const),
      what: fc.constantFrom<What>('retitle', 'move', 'complete', 'reopen', 'no-hour', 'note'),
      side,
      pick,
      at,
      title,
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('clash' as const),
      pick,
      side,
      what: fc.constantFrom('retitle' as const, 'note' as const),
      title,
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('close' as const),
      side,
      how: fc.constantFrom('revoked' as const, 'vanished' as const),
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('rule' as const), settings }) },
)

export const tally = {
  histories: 0,
  edits: 0,
  editsHere: 0,
  deletions: 0,
  moves: 0,
  passes: 0,
  faults: 0,
  conflicts: 0,
  toAndFro: 0,
  refusedHere: 0,
  undone: 0,
  pauses: 0,
  closures: 0,
  ruleEdits: 0,
  advances: 0,
  writes: 0,
  rings: 0,
}

/** What an edit is in the terms of the item; null where it is none. */
function patchFor(
  present: Item,
  what: What,
  s: { at: number; pick: number; title: string },
): ItemPatch | null {
  const local = HOURS[s.at] ?? ''
  if (what === 'retitle') return { summary: s.title }
  if (what === 'note') return { description: s.title }
  if (present.kind === 'task') {
    if (what === 'move') return { start: zoned(local, ZONE) }
    if (what === 'no-hour') return { start: s.pick % 2 ? null : { kind: 'date', date: '2026-11-26' } }
    return { status: what === 'complete' ? 'completed' : 'needs-action' }
  }
  const plain = splitMark(present.summary, '✓').title
  const anchor = zoned(local, s.pick % 3 === 0 ? 'Asia/Kathmandu' : ZONE)
  if (what === 'move') return { time: { anchor, minutes: 15 * (1 + s.at) } }
  if (what === 'no-hour') return { time: { anchor: { kind: 'date', date: '2026-11-27' }, minutes: 1440 } }
  return { summary: what === 'complete' ? `✓ ${plain}` : plain }
}

const namesOf = (world: World): Name[] => NAMES.filter(n => n !== 'c' || world.rules.length > 1)

/** Somebody edits at a service. */
function edit(world: World, s: Edit): void {
  const names = namesOf(world)
  const service = world.services[names[s.side % names.length] ?? 'a']
  const ids = [...service.items.keys()]
  const id = ids[s.pick % Math.max(1, ids.length)]
  const present = id === undefined ? undefined : service.items.get(id)?.item
  if (id === undefined || !present) return
  tally.edits++
  if (s.do === 'delete') {
    tally.deletions++
    service.delete('them', id)
  } else if (s.do === 'elsewhere') {
    tally.moves++
    service.move(id, world.fresh('m'))
  } else {
    const patch = patchFor(present, s.do, s)
    if (patch) service.patch('them', id, patch)
  }
}

function clash(world: World, s: Extract<Step, { do: 'clash' }>): void {
  const ties = world.activeTies()
  const tie = ties[s.pick % Math.max(1, ties.length)]
  const order = s.side % 2 ? ([tie?.b, tie?.a] as const) : ([tie?.a, tie?.b] as const)
  for (const [n, id] of order.entries()) {
    const kept = world.standing(id ?? null)
    const patch = kept && patchFor(kept.item, s.what, { at: 0, pick: 0, title: `${n} ${s.title}` })
    if (!id || !kept || !patch) continue
    tally.edits++
    world.serviceOf(id).patch('them', kept.id, patch)
    world.now += 700
  }
}

/** Somebody edits in our own screens. */
function here(world: World, s: Extract<Step, { do: 'here' }>): void {
  const names = namesOf(world)
  const name = names[s.side % names.length] ?? 'a'
  const there = [...world.mirrors.values()].filter(
    m => world.nameOf(m.id) === name && m.presence === 'present',
  )
  const m = there[s.pick % Math.max(1, there.length)]
  const patch = m && patchFor(m.item, s.what, s)
  if (!m || !patch) return
  tally.editsHere++
  editHere(world, m.id, patch)
}

/** Rounds enough for everything to come to rest, also where something sets back what rules write. */
function rest(world: World): void {
  const robots = Object.values(world.services).some(s => s.can.robot !== 'none')
  for (let round = 0; round < 3 + 2 * world.rules.length + (robots ? 6 : 0); round++) {
    world.pass()
    renewAnswers(world)
  }
}

/** Everything is open again, and every rule goes on. */
function reopen(world: World): void {
  for (const s of Object.values(world.services)) s.closed = 'no'
  world.paused.clear()
}

export function act(world: World, s: Step, stamp: number): void {
  switch (s.do) {
    case 'pass': {
      tally.passes++
      tally.faults += s.faults.filter(f => f !== 'none').length
      let i = 0
      world.pass({
        fault: () => s.faults[i++] ?? 'none',
        meddle: (service, id) => void service.patch('them', id, { summary: `after ${stamp}` }),
        early: s.early,
        overtaken: s.overtaken,
        stops: s.stops ?? null,
      })
      renewAnswers(world)
      return
    }
    case 'add': {
      const names = namesOf(world)
      const name = names[s.side % names.length] ?? 'a'
      const local = HOURS[s.at] ?? ''
      if (world.services[name].can.kind === 'task') world.addTask(s.title, local, name, s.repeats)
      else world.addEvent(s.title, local, 45, ZONE, name)
      return
    }
    case 'undo': {
      reopen(world)
      rest(world)
      const undone = undo(world, s.pick)
      if (!undone) return
      tally.undone++
      // Undo is exact, and stays so until somebody edits. To other rules it is an edit, which goes on round a ring.
      if (world.rules.length > 1) return
      const before = world.standing(undone.mirror)?.item
      rest(world)
      const after = world.standing(undone.mirror)?.item
      const robot = world.serviceOf(undone.mirror).can.robot !== 'none'
      if (before && after && !robot && undone.want.some(([f]) => f === 'title' || f === 'notes'))
        expect([after.summary, after.description], 'what was put back stays').to.deep.equal([
          before.summary,
          before.description,
        ])
      return
    }
    case 'answer':
      return answer(world, s.pick, s.side % 2 ? 'b' : 'a')
    case 'clash':
      return clash(world, s)
    case 'here':
      return here(world, s)
    case 'pause':
      tally.pauses++
      return world.pause(s.pick % world.rules.length)
    case 'close': {
      const names = namesOf(world)
      const service = world.services[names[s.side % names.length] ?? 'a']
      tally.closures++
      service.closed = service.closed === 'no' ? s.how : 'no'
      return
    }
    case 'rule':
      // The rules of a ring stay such that it comes to itself.
      if (world.rules.length > 1) return
      tally.ruleEdits++
      return world.editRule(0, s.settings)
    default:
      return edit(world, s)
  }
}

/** One random history; throws where SYNC.md §4 does not hold at its end. */
export function live(steps: Step[], of: Partial<RuleSettings>, where: WorldOptions, bug: Bug | null): void {
  const world = new World(where.rules ? {} : of, bug, where)
  tally.histories++
  if (world.rules.length > 1) tally.rings++
  const seed = (name: 'a' | 'b', summary: string, local: string): void => {
    if (world.services[name].can.kind === 'task') world.addTask(summary, local, name)
    else world.addEvent(summary, local, 30, ZONE, name)
  }
  seed('a', 'Water ledger', HOURS[0] ?? '')
  if (world.services.a.can.kind === 'task') {
    world.addTask('Label night beds', '2026-11-26')
    world.addTask('Air the glasshouse', HOURS[2] ?? '', 'a', true)
  }
  seed('b', 'Seed swap', HOURS[1] ?? '')
  world.pass()
  world.pass()
  steps.forEach((s, i) => {
    world.now += i % 7 === 6 ? 60_000 : i % 3 === 0 ? 5000 : 500
    act(world, s, i)
  })
  reopen(world)
  // What was under way is through after two rounds; from then on nobody edits.
  world.pass()
  world.pass()
  const quietFrom = world.now
  rest(world)
  nothingFlaps(world, quietFrom)
  expect(world.pass(), 'a further pass writes nothing').to.equal(0)
  expect(world.intents, 'nothing waits').to.have.length(0)
  tally.conflicts += conflicts(world).length + world.overridden.filter(o => o.because !== 'one-way').length
  tally.toAndFro += world.toAndFro.size
  tally.refusedHere += world.own.refused
  tally.writes += world.journal.length
  tally.advances += [...world.ties.values()].filter(t => t.released === 'advanced').length
  mustHold(world)
}

export const history = fc.array(step, { minLength: 3, maxLength: 25 })
