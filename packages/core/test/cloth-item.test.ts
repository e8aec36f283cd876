import { expect } from 'chai'
import fc from 'fast-check'
import {
  withOpenEdit,
  type Around,
  canBeFreed,
  clothItem,
  type Event,
  EventKind,
  factsBeside,
  isOurMark,
  type ItemSource,
  kindMarkOf,
  newEvent,
  newTask,
  noOwnLayer,
  onDate,
  type OwnLayer,
  slim,
  type Task,
  unplacedMinutes,
  whole,
  withMarks,
  zoned,
} from '../src/index.ts'

const ZONE = 'Europe/Dublin'
const viewer = { zone: ZONE, defaultMinutes: 30, now: Date.parse('2026-11-24T11:00:00Z') }
const wednesday = zoned('2026-11-25T10:00:00', ZONE)
const task = (patch: Partial<Task> = {}, rest: Partial<ItemSource<Task>> = {}): ItemSource<Task> => ({
  id: 't',
  item: { ...newTask('t', { summary: 'Boiler' }), ...patch },
  collectionId: 'list',
  pending: false,
  writable: true,
  ...rest,
})
const event = (
  patch: Partial<Event> = {},
  own: Partial<OwnLayer> = {},
  writable = true,
): ItemSource<Event> => ({
  id: 'e',
  item: { ...newEvent('e', { anchor: wednesday, minutes: 45 }, { summary: 'Boiler visit' }), ...patch },
  collectionId: 'calendar',
  pending: false,
  writable,
  own: { ...noOwnLayer, ...own },
  people: ['ines'],
})
const drawn = (t: ItemSource<Task> | null, e: ItemSource<Event> | null, around: Around = {}) => {
  const item = clothItem(t, e, viewer, around)
  if (!item) throw new Error('nothing to draw')
  return item
}

describe('one thing, drawn once', () => {
  it('has the words of the task and the place of the event', () => {
    const item = drawn(task({ start: wednesday, due: onDate('2026-11-23') }), event({ location: 'House 3' }))
    expect(item).to.deep.include({ kind: 'tied', title: 'Boiler', location: 'House 3', overdue: true })
    expect(item.sources).to.deep.equal(['list', 'calendar'])
    expect(item.place).to.deep.equal({
      kind: 'timed',
      startMs: Date.parse('2026-11-25T10:00:00Z'),
      endMs: Date.parse('2026-11-25T10:45:00Z'),
    })
  })

  it('shows a task’s own new hour before it has reached the event, with the length the event has', () => {
    const moved = withOpenEdit(task({ start: wednesday }), { start: zoned('2026-11-26T14:00:00', ZONE) })
    expect(drawn(moved, event()).place).to.deep.include({ endMs: Date.parse('2026-11-26T14:45:00Z') })
  })

  it('stays where its event is while something else about it is on its way', () => {
    const renamed = withOpenEdit(task({ due: onDate('2026-11-25') }), { summary: 'Boiler valve' })
    expect(drawn(renamed, event())).to.deep.include({ title: 'Boiler valve', pending: true })
    expect(drawn(renamed, event()).place).to.include({ kind: 'timed' })
  })

  it('is not drawn at all once the event is cancelled', () => {
    expect(clothItem(null, event({ status: 'cancelled' }), viewer)).to.equal(null)
  })

  it('knows a block by its task: it is over when that is, and takes no time then', () => {
    const open = drawn(null, event(), { blockOf: task({ priority: 1 }) })
    expect(open).to.deep.include({ kind: 'block', of: 't', done: false, busy: true, priority: 1 })
    expect(open.sources).to.deep.equal(['list', 'calendar'])
    expect(drawn(null, event(), { blockOf: task({ status: 'completed' }) })).to.include({
      done: true,
      busy: false,
    })
    expect(drawn(null, event({}, { spent: true }), { blockOf: task() })).to.include({
      done: true,
      busy: true,
    })
  })

  it('knows a batch by its tasks, or before it has any by what was said of it', () => {
    const line = { key: 't', title: 'Boiler', done: false, completable: true }
    expect(drawn(null, event(), { batch: [line] })).to.deep.include({ kind: 'batch', batch: [line] })
    expect(drawn(null, event({}, { eventKind: 'batch' })).kind).to.equal('batch')
    expect(drawn(null, event({ categories: ['Batch'] })).kind).to.equal('batch')
    expect(drawn(null, event()).kind).to.equal('event')
  })

  it('counts of a task what its blocks neither hold nor have spent', () => {
    const whole = drawn(task({ estimatedDuration: 120 }), null, { blocks: { ahead: 30, spent: 45 } })
    expect(unplacedMinutes(whole, 30)).to.equal(45)
    expect(unplacedMinutes({ ...whole, blocks: { ahead: 300, spent: 0 } }, 30)).to.equal(0)
    expect(unplacedMinutes({ ...whole, estimate: null, blocks: { ahead: 0, spent: 0 } }, 30)).to.equal(30)
  })
})

describe('an item as it travels', () => {
  it('is whole again, and says only what is not as usual', () => {
    const items = [
      clothItem(task(), null, viewer),
      clothItem(
        task({ status: 'completed', due: onDate('2026-11-20'), categories: ['glass'] }),
        null,
        viewer,
        {
          blocks: { ahead: 30, spent: 0 },
          conflict: true,
        },
      ),
      clothItem(task(), null, viewer, { batch: [], also: ['calendar'] }),
    ]
    for (const item of items) {
      if (!item) throw new Error('nothing is drawn')
      const sent = JSON.parse(JSON.stringify(slim(item))) as ReturnType<typeof slim>
      expect(whole(sent)).to.deep.equal(item)
      expect(Object.keys(sent).length).to.be.lessThan(Object.keys(item).length / 2)
    }
  })
})

describe('fixed and movable', () => {
  const cases: [string, ItemSource<Event>, RegExp | null][] = [
    ['an event of a calendar of ours', event(), null],
    ['one with guests', event({ attendees: 2 }), /guests/],
    ['one with guests that somebody freed', event({ attendees: 2 }, { movable: true }), null],
    ['one that somebody fixed', event({}, { movable: false }), /marked fixed/],
    ['one that its calendar calls fixed', event({ categories: ['Talks', 'fixed'] }), /says that it is fixed/],
    ['one of a calendar that can only be read', event({}, { movable: true }, false), /only be read/],
  ]
  for (const [what, source, words] of cases)
    it(what, () => {
      const item = drawn(null, source)
      if (words) expect(item.fixedBecause).to.match(words)
      else expect(item.fixedBecause).to.equal(null)
      expect(item.movable).to.equal(words === null)
    })

  it('can be said of what is ours to write and does not repeat', () => {
    expect([event(), event({}, {}, false), event({ recurring: true })].map(canBeFreed)).to.deep.equal([
      true,
      false,
      false,
    ])
  })
})

describe('marks among the categories', () => {
  const words = fc.array(
    fc.constantFrom('Talks', 'Meeting', 'movable', 'FIXED', 'Task block', 'Night', 'focus'),
    {
      maxLength: 6,
    },
  )
  const kinds = fc.constantFrom<EventKind | null>(...EventKind.options.filter(k => k !== 'other'), null)
  const movable = fc.constantFrom(true, false, null)

  it('say what they are told, leave everything else as it is and where it is, and say it only once', () => {
    fc.assert(
      fc.property(words, kinds, movable, (given, kind, may) => {
        const said = withMarks(given, { kind, movable: may })
        expect(kindMarkOf(said)).to.equal(kind)
        expect(said.filter(c => !isOurMark(c))).to.deep.equal(given.filter(c => !isOurMark(c)))
        expect(withMarks(said, { kind, movable: may })).to.deep.equal(said)
        const marks = said.filter(isOurMark)
        expect(marks).to.have.length((kind ? 1 : 0) + (may === null ? 0 : 1))
      }),
    )
  })

  it('leave alone what they are not told about', () => {
    expect(withMarks(['Focus', 'Talks', 'Fixed'], { movable: true })).to.deep.equal([
      'Focus',
      'Talks',
      'Movable',
    ])
    expect(withMarks(['Focus', 'Talks', 'Fixed'], { kind: null })).to.deep.equal(['Talks', 'Fixed'])
  })
})

describe('what only one side can say', () => {
  const poor = new Set(['estimatedDuration', 'assignees', 'priority', 'categories', 'due', 'description'])
  const rich = task(
    {
      estimatedDuration: 90,
      assignees: ['77'],
      priority: 2,
      categories: ['Glass'],
      due: onDate('2026-11-27'),
      description: 'Bring putty.',
    },
    { id: 'other', people: ['tobias'] },
  )
  const beside = (lead: ItemSource<Task>, others: ItemSource<Task | Event>[]) => {
    const facts = factsBeside(lead, others)
    return drawn(lead, null, facts ? { facts } : {})
  }

  it('is shown and planned with, whichever side says it', () => {
    const item = beside(task({ start: wednesday }, { unsupported: poor, people: ['ines'] }), [rich])
    expect(item).to.deep.include({
      estimate: 90,
      people: ['tobias'],
      priority: 2,
      categories: ['Glass'],
      due: '2026-11-27',
      notes: 'Bring putty.',
    })
    expect(item.place).to.deep.equal({
      kind: 'timed',
      startMs: Date.parse('2026-11-25T10:00:00Z'),
      endMs: Date.parse('2026-11-25T11:30:00Z'),
    })
    expect(unplacedMinutes(item, 30)).to.equal(90)
  })

  it('takes nothing from what the task itself says, or leaves empty though it could say it', () => {
    const own = { estimatedDuration: 20, assignees: ['5'], priority: 7, description: 'Mine', due: wednesday }
    const said = beside(task(own, { unsupported: poor, people: ['ines'] }), [rich])
    expect(said).to.deep.include({ estimate: 20, people: ['ines'], priority: 7, notes: 'Mine' })
    const could = beside(task({}, { people: ['ines'] }), [rich])
    expect(could).to.deep.include({ priority: 0, categories: [], due: null, notes: '' })
    expect(factsBeside(task(), [])).to.equal(null)
  })

  it('never shows what a private event says, nor our own marks', () => {
    const said = { description: 'Doctor', priority: 1, categories: ['Meeting', 'Health'] }
    const lead = task({}, { unsupported: poor })
    expect(factsBeside(lead, [event({ ...said, class: 'private' })])).to.equal(null)
    expect(factsBeside(lead, [event(said)])).to.deep.equal({
      priority: 1,
      categories: ['Health'],
      notes: 'Doctor',
    })
  })
})
