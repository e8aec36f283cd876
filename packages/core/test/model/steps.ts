import fc from 'fast-check'
import { defaultSettings, type RuleSettings } from '../../src/index.ts'
import type { Capabilities } from './service.ts'
import type { Word } from './people.ts'
import type { Fault, PassTerms, WorldOptions } from './world.ts'

/** What random histories are made of: services, rules, and what people and services do. */

export const HOURS = [
  '2026-11-25T10:00:00',
  '2026-11-26T14:30:00',
  '2026-11-27T09:15:00',
  '2026-12-01T16:00:00',
  // In Kathmandu this is the evening of the day before, in Dublin.
  '2026-11-28T02:15:00',
]
const FAULTS: Fault[] = [
  'edited-before',
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

export type What = 'retitle' | 'move' | 'complete' | 'reopen' | 'no-hour' | 'note' | 'rank' | 'label'
export interface Edit {
  do: What | 'delete' | 'elsewhere' | 'copy'
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
  /** A creation is sent and not answered, and the list that it was for cannot be looked at afterwards. */
  | { do: 'lose'; made: boolean; closes: boolean; title: string; at: number }
  /** What somebody says of a creation of which nobody can tell. */
  | { do: 'say'; word: Word }
  /** An edit in our own screens. */
  | { do: 'here'; what: What; side: number; pick: number; at: number; title: string }
  /** Two people edit the two sides of one pair, one after the other; and somebody marks the event after that. */
  | { do: 'clash'; pick: number; side: number; what: 'retitle' | 'note'; title: string; marks: boolean }
  /**
   * A decision that asks for a write on either side, of which one is refused: an event is marked, or labels are given on
   * both sides at once. Before it is planned again, the same may be edited once more.
   */
  | { do: 'torn'; pick: number; what: 'mark' | 'label'; refused: 'first' | 'second'; again: boolean }
  /**
   * One side of a pair is edited and the other deleted, before anybody looks; or both are edited first, so that the rule may
   * hold the field.
   */
  | { do: 'cross'; pick: number; side: number; what: 'note' | 'rank' | 'label'; held: boolean; title: string }
  /** Somebody deletes one side of a pair at rest, what follows comes about, and it is put back as it was; or what went for it. */
  | { do: 'return'; pick: number; side: number; edits: boolean; ours: boolean; at: number; title: string }
  /** A service goes back to an earlier version of an item. */
  | { do: 'backup'; pick: number; side: number; what: 'note' | 'rank' | 'label' | 'retitle'; title: string }
  /** Something is found in the first complete reading of the calendar, or was an invitation when it was first seen. */
  | { do: 'stood'; invited: boolean; at: number }
  /** Access is taken away, or given back. */
  | { do: 'close'; side: number; how: 'revoked' | 'vanished' }
  | { do: 'rule'; settings: Partial<RuleSettings> }

/** Some rules take nothing that says so. */
export const PRIVATE = 'private'
const filter: fc.Arbitrary<RuleSettings['filter']['a']> = fc.constantFrom(
  [],
  [],
  [{ field: 'words', of: [PRIVATE], without: true }],
)
const left = fc.constantFrom('release' as const, 'mark' as const, 'remove' as const)

const title = fc.oneof(
  fc.constantFrom(
    'Boiler valve',
    '✓ odd one',
    `${PRIVATE} matter`,
    '✓',
    ' spaces ',
    'A title that is longer than twenty characters',
  ),
  fc.string({ minLength: 1, maxLength: 30, unit: 'grapheme' }),
)
const at = fc.nat({ max: HOURS.length - 1 })
const side = fc.nat({ max: 2 })
const pick = fc.nat({ max: 20 })
/** Most fields of most rules go both ways; each of the others is seen often enough. */
const way = fc.oneof(
  { weight: 6, arbitrary: fc.constant('both' as const) },
  {
    weight: 4,
    arbitrary: fc.constantFrom('a-to-b' as const, 'b-to-a' as const, 'once' as const, 'off' as const),
  },
)

/** Some rules carry these as well. */
const seldom = fc.oneof({ weight: 3, arbitrary: fc.constant('off' as const) }, { weight: 2, arbitrary: way })

export const settings: fc.Arbitrary<Partial<RuleSettings>> = fc.record({
  fields: fc
    .record({ title: way, notes: way, time: way, completion: way, priority: seldom, categories: seldom })
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
  filter: fc.record({ a: filter, b: filter }),
  left: fc.record({ a: left, b: left }),
  made: fc.record({ a: fc.constant('all' as const), b: fc.constantFrom('new' as const, 'nothing' as const) }),
})

const capabilities = (kind: Capabilities['kind']): fc.Arbitrary<Capabilities> =>
  fc.record({
    kind: fc.constant(kind),
    titleMax: fc.constantFrom(kind === 'task' ? 20 : null, null),
    minutesOnly: fc.constant(kind === 'task'),
    hasPlan: fc.constant(true),
    daysOnly: kind === 'task' ? fc.constantFrom(false, false, true) : fc.constant(false),
    trimsNotes: fc.boolean(),
    skew: fc.constantFrom(0, 40_000, -40_000),
    grain: fc.constantFrom(1, 1000),
    listing: fc.constantFrom('true' as const, 'true' as const, 'late' as const, 'forgetful' as const),
    hidesDone: fc.boolean(),
    choosesIds: fc.boolean(),
    behindMs: fc.constantFrom(0, 10_000),
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
      .record({
        a: capabilities('task'),
        b: capabilities('task'),
        hasPlan: fc.boolean(),
        daysOnly: fc.boolean(),
      })
      .map(({ a, b, hasPlan, daysOnly }) => ({ services: { a, b: { ...b, hasPlan, daysOnly } } })),
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
      .record({
        a: capabilities('task'),
        b: capabilities('event'),
        c: capabilities('task'),
        daysOnly: fc.boolean(),
      })
      .map(({ a, b, c, daysOnly }) => ({
        services: mapped({ a, b, c: { ...c, daysOnly } }, s => ({ ...s, robot: 'none' as const })),
        rules: RING,
      })),
  },
)
const PLAIN: Partial<RuleSettings> = { ...defaultSettings, made: { a: 'all', b: 'nothing' } }
export const RING: NonNullable<WorldOptions['rules']> = [
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
        'copy',
        'no-hour',
        'note',
        'rank',
        'label',
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
      what: fc.constantFrom<What>(
        'retitle',
        'move',
        'complete',
        'reopen',
        'no-hour',
        'note',
        'rank',
        'label',
      ),
      side,
      pick,
      at,
      title,
    }),
  },
  {
    weight: 3,
    arbitrary: fc.record({
      do: fc.constant('clash' as const),
      pick,
      side,
      what: fc.constantFrom('retitle' as const, 'retitle' as const, 'note' as const),
      title,
      marks: fc.boolean(),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('torn' as const),
      pick,
      what: fc.constantFrom('mark' as const, 'label' as const),
      refused: fc.constantFrom('first' as const, 'second' as const),
      again: fc.boolean(),
    }),
  },
  {
    weight: 5,
    arbitrary: fc.record({
      do: fc.constant('cross' as const),
      pick,
      side,
      what: fc.constantFrom('note' as const, 'note' as const, 'rank' as const, 'label' as const),
      held: fc.boolean(),
      title,
    }),
  },
  {
    weight: 3,
    arbitrary: fc.record({
      do: fc.constant('return' as const),
      pick,
      side,
      edits: fc.boolean(),
      ours: fc.constantFrom(false, false, true),
      at,
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
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('say' as const),
      word: fc.constantFrom<Word>('look', 'make', 'leave'),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('lose' as const),
      made: fc.boolean(),
      closes: fc.boolean(),
      title,
      at,
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('rule' as const), settings }) },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('backup' as const),
      pick,
      side,
      what: fc.constantFrom('note' as const, 'rank' as const, 'label' as const, 'retitle' as const),
      title,
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('stood' as const), invited: fc.boolean(), at }) },
)

export const history = fc.array(step, { minLength: 3, maxLength: 25 })
