import { expect } from 'chai'
import fc from 'fast-check'
import {
  addDays,
  admits,
  type Clause,
  entry,
  everything,
  type Filter,
  Filter as FilterSchema,
  filterWords,
  type FilterTerms,
  clauseAdmits,
  keeps,
  newEvent,
  newTask,
  onDate,
  type Scope,
  type Task,
  trimmed,
} from '../src/index.ts'

/** The one filter language, and the sentence that says what comes in. */

const ZONE = 'Asia/Kathmandu'
/** In Kathmandu it is the 25th already. */
const terms: FilterTerms = { me: 'u7', now: Date.parse('2026-11-24T20:00:00Z'), zone: ZONE }
const task = (set: Partial<Task>): Task => newTask('t', { summary: 'Mist line', ...set })
const day = (date: string) => ({ kind: 'date' as const, date })
const STATUSES = ['needs-action', 'in-process', 'completed', 'cancelled'] as const

const clause: fc.Arbitrary<Clause> = fc.oneof(
  fc.record({
    field: fc.constant('status' as const),
    is: fc.uniqueArray(fc.constantFrom(...STATUSES), { minLength: 1 }),
  }),
  fc.record({
    field: fc.constant('assignee' as const),
    is: fc.uniqueArray(fc.constantFrom('me', 'nobody', 'u7', 'u8'), { minLength: 1 }),
  }),
  fc.record({
    field: fc.constant('words' as const),
    of: fc.uniqueArray(fc.constantFrom('mist', 'boiler', 'LINE'), { minLength: 1 }),
    without: fc.boolean(),
  }),
  fc.record({ field: fc.constant('priority' as const), atLeast: fc.integer({ min: 1, max: 9 }) }),
  fc.record({ field: fc.constant('since' as const), days: fc.integer({ min: 0, max: 30 }) }),
  fc.record({ field: fc.constant('category' as const), is: fc.constantFrom<string[]>(['bulbs']) }),
)
const filter = fc.array(clause, { maxLength: 4 })
const someTask: fc.Arbitrary<Task> = fc
  .record({
    status: fc.constantFrom(...STATUSES),
    assignees: fc.subarray(['u7', 'u8']),
    summary: fc.constantFrom('Mist line', 'Boiler', 'Paths'),
    priority: fc.integer({ min: 0, max: 9 }),
    due: fc.option(fc.constantFrom('2026-11-01', '2026-11-24', '2026-12-01').map(day), { nil: null }),
    categories: fc.constantFrom<string[]>([], ['Bulbs']),
  })
  .map(task)

describe('the filter', () => {
  it('admits what all clauses hold for, and less with every clause more', () => {
    fc.assert(
      fc.property(filter, clause, someTask, (f, more, t) => {
        expect(admits(f, t, terms)).to.equal(f.every(c => clauseAdmits(c, t, terms)))
        if (admits([...f, more], t, terms)) expect(admits(f, t, terms)).to.equal(true)
      }),
    )
    expect(admits([], task({}), terms)).to.equal(true)
  })

  it('keeps everything that it admits', () => {
    fc.assert(
      fc.property(filter, someTask, (f, t) => {
        if (admits(f, t, terms)) expect(keeps(f, t, terms)).to.equal(true)
      }),
    )
  })

  it('survives JSON, and refuses what is no clause', () => {
    fc.assert(
      fc.property(filter, f => {
        expect(FilterSchema.parse(JSON.parse(JSON.stringify(f)))).to.deep.equal(f)
      }),
    )
    for (const wrong of [
      [{ field: 'colour', is: ['red'] }],
      [{ field: 'status', is: [] }],
      [{ field: 'priority', atLeast: 12 }],
      [{ field: 'words', of: ['  '], without: false }],
      'everything',
    ])
      expect(FilterSchema.safeParse(wrong).success, JSON.stringify(wrong)).to.equal(false)
  })

  const cases: [string, Clause, Partial<Task>, boolean][] = [
    ['mine', { field: 'assignee', is: ['me'] }, { assignees: ['u7'] }, true],
    ['somebody else’s', { field: 'assignee', is: ['me'] }, { assignees: ['u8'] }, false],
    ['nobody’s', { field: 'assignee', is: ['nobody'] }, { assignees: [] }, true],
    [
      'a word in the notes',
      { field: 'words', of: ['PIPE'], without: false },
      { description: 'a pipe' },
      true,
    ],
    ['a word that keeps out', { field: 'words', of: ['line'], without: true }, {}, false],
    ['full width letters', { field: 'words', of: ['ｍｉｓｔ'], without: false }, {}, true],
    ['a category, however written', { field: 'category', is: ['bulbs'] }, { categories: ['Bulbs'] }, true],
    ['no priority', { field: 'priority', atLeast: 9 }, { priority: 0 }, false],
    ['a higher one', { field: 'priority', atLeast: 3 }, { priority: 1 }, true],
    ['no date at all', { field: 'since', days: 0 }, {}, true],
    ['due yesterday', { field: 'since', days: 0 }, { due: day('2026-11-24') }, false],
    ['due yesterday, a day back', { field: 'since', days: 1 }, { due: day('2026-11-24') }, true],
    [
      'planned long ago, due later',
      { field: 'since', days: 0 },
      { start: day('2026-01-01'), due: day('2026-12-01') },
      true,
    ],
    [
      'done lately',
      { field: 'since', days: 3 },
      { due: day('2026-01-01'), completed: '2026-11-23T10:00:00Z' },
      true,
    ],
  ]
  for (const [what, c, set, expected] of cases)
    it(`${expected ? 'admits' : 'keeps out'} ${what}`, () => {
      expect(clauseAdmits(c, task(set), terms)).to.equal(expected)
    })

  it('leaves events alone where a clause is about tasks', () => {
    const event = newEvent('e', { anchor: day('2026-11-25'), minutes: 1440 }, { summary: 'Herbarium call' })
    for (const c of [
      { field: 'status', is: ['completed'] },
      { field: 'assignee', is: ['u8'] },
      { field: 'priority', atLeast: 1 },
      { field: 'serviceStatus', is: ['x'] },
    ] as Clause[])
      expect(clauseAdmits(c, event, terms), c.field).to.equal(true)
    expect(clauseAdmits({ field: 'since', days: 0 }, event, terms)).to.equal(true)
    const past = { ...event, time: { ...event.time, anchor: day('2026-11-20') } }
    expect(clauseAdmits({ field: 'since', days: 0 }, past, terms)).to.equal(false)
    expect(
      clauseAdmits({ field: 'since', days: 0 }, { ...past, recurring: true }, terms),
      'a series',
    ).to.equal(true)
  })

  it('reads as a sentence', () => {
    const f: Filter = [
      { field: 'status', is: ['needs-action', 'in-process'] },
      { field: 'assignee', is: ['me', 'u8'] },
      { field: 'words', of: ['pipe'], without: true },
      { field: 'since', days: 14 },
    ]
    expect(filterWords(f, id => (id === 'u8' ? 'Bram' : id))).to.equal(
      'that are to do or in progress, of me or Bram, without “pipe”, from 14 days ago on',
    )
    expect(filterWords([])).to.equal('without exception')
  })
})

describe('what comes in', () => {
  const scope: Scope = { ...everything, filter: [{ field: 'status', is: ['needs-action'] }] }
  const at = (picked: boolean, isIn: boolean) => ({ ...terms, picked, isIn })

  it('takes in what the sentence admits, and what was picked in any case', () => {
    expect(entry(scope, task({}), at(false, false))).to.equal('in')
    expect(entry(scope, task({ status: 'completed' }), at(false, false))).to.equal('out')
    expect(entry(scope, task({ status: 'completed' }), at(true, false))).to.equal('in')
  })

  it('does not lose what is completed or grows old, only what goes to others', () => {
    const mine: Scope = { ...scope, filter: [...scope.filter, { field: 'assignee', is: ['me'] }] }
    expect(entry(mine, task({ status: 'completed', assignees: ['u7'] }), at(false, true))).to.equal('in')
    expect(entry(mine, task({ assignees: ['u8'] }), at(false, true))).to.equal('leaves')
  })

  it('by picking, nothing comes by itself', () => {
    const picked: Scope = { ...everything, by: 'picked' }
    expect(entry(picked, task({}), at(false, false))).to.equal('out')
    expect(entry(picked, task({}), at(true, false))).to.equal('in')
    expect(entry(picked, task({}), at(false, true))).to.equal('leaves')
  })

  it('never takes something out that is not in, nor in twice', () => {
    fc.assert(
      fc.property(filter, someTask, fc.boolean(), fc.boolean(), (f, t, picked, isIn) => {
        const judged = entry({ ...everything, filter: f }, t, at(picked, isIn))
        expect(judged).to.be.oneOf(isIn ? ['in', 'leaves'] : ['in', 'out'])
      }),
    )
  })

  it('leaves notes at the service where they are to stay there', () => {
    const secret = task({ description: 'The key is under the pot.' })
    expect(trimmed({ ...everything, notes: false }, secret).description).to.equal('')
    expect(trimmed(everything, secret)).to.equal(secret)
  })
})

describe('clauses of views', () => {
  const now = Date.parse('2026-11-24T11:00:00Z')
  const terms = (about?: { collections: string[]; members: string[] }): FilterTerms => ({
    me: null,
    now,
    zone: 'Europe/Dublin',
    ...(about && { about }),
  })
  const due = (days: number | null) =>
    newTask('t', { summary: 't', due: days === null ? null : onDate(addDays('2026-11-24', days)) })

  it('take tasks by how near their deadline is, late ones among them, or those that have none', () => {
    const cases: [number | null, (number | null)[]][] = [
      [-1, [-3, -1]],
      [0, [-3, -1, 0]],
      [7, [-3, -1, 0, 7]],
      [null, [null]],
    ]
    for (const [within, wanted] of cases) {
      const kept = [-3, -1, 0, 7, 8, null].filter(d =>
        clauseAdmits({ field: 'due', within }, due(d), terms()),
      )
      expect(kept, String(within)).to.deep.equal(wanted)
    }
    // An event has no deadline: what it does not have does not keep it out.
    const event = newEvent('e', { anchor: onDate('2026-11-24'), minutes: 1440 })
    expect(clauseAdmits({ field: 'due', within: 0 }, event, terms())).to.equal(true)
  })

  it('take items by where they are and whom they concern, and keep nothing out where that is not known', () => {
    const inTwo = terms({ collections: ['list', 'calendar'], members: ['ines'] })
    const list = (...is: string[]) => ({ field: 'list' as const, is })
    const member = (...is: string[]) => ({ field: 'member' as const, is })
    const kept = [list('list'), list('calendar', 'x'), list('x'), member('ines'), member('bram')].map(c =>
      clauseAdmits(c, due(0), inTwo),
    )
    expect(kept).to.deep.equal([true, true, false, true, false])
    expect(clauseAdmits(list('x'), due(0), terms())).to.equal(true)
    expect(clauseAdmits(member('x'), due(0), terms())).to.equal(true)
  })

  it('read as a part of a sentence, with the names people know', () => {
    const names: Record<string, string> = { f: 'Festival', i: 'Ines Varga' }
    const said = filterWords(
      [
        { field: 'list', is: ['f'] },
        { field: 'member', is: ['i'] },
        { field: 'due', within: 7 },
        { field: 'due', within: -1 },
        { field: 'due', within: null },
        { field: 'due', within: 0 },
      ],
      id => names[id] ?? id,
    )
    expect(said).to.equal(
      'in Festival, of Ines Varga, due within 7 days, that are overdue, without a due date, due today',
    )
  })
})
