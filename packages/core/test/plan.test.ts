import { expect } from 'chai'
import { type Decision, defaultSettings, followed, newTask, onDate, zoned } from '../src/index.ts'
import { plainService } from './model/service.ts'
import { World, ZONE } from './model/world.ts'

/** What one rule asks for, case by case. */

const WED = '2026-11-25T10:00:00'
const THU = '2026-11-26T14:30:00'

/** A task and its event, tied and at rest. */
function pair(): { w: World; task: string; event: string } {
  const w = new World()
  const task = w.addTask('Boiler valve', WED)
  w.pass()
  w.pass()
  const event = w.eventOf(task)?.uid ?? ''
  w.now += 60_000
  return { w, task, event }
}
function planned(w: World): Decision[] {
  w.now += 1000
  w.observeAll()
  return w.plan()
}
const told = (ds: Decision[]): string[] => ds.map(d => `${d.effect} ${d.on ?? '-'} ${d.reason}`)

describe('what a rule asks for', () => {
  it('an event of default length for a task with an hour; none for a day, none for no date, none outside', () => {
    const w = new World({ aheadDays: 30 })
    w.addTask('With an hour', WED)
    w.addTask('A day', '2026-11-26')
    w.addTask('No date', null)
    w.addTask('Far off', '2027-03-01T10:00:00')
    expect(told(planned(w))).to.deep.equal(['make b task-has-hour', 'none - no-hour', 'none - outside'])
    const made = w.plan()[0]?.writes[0]
    expect(made?.op === 'create' && made.item).to.deep.include({
      time: { anchor: zoned(WED, ZONE), minutes: 30 },
    })
  })

  it('nothing for a pair at rest', () => {
    expect(planned(pair().w)).to.deep.equal([])
  })

  it('one patch for several edited fields', () => {
    const { w, task } = pair()
    w.edit('a', task, { summary: 'Valve', start: zoned(THU, ZONE), status: 'completed' })
    const [d] = planned(w)
    expect(d?.writes).to.have.length(1)
    const write = d?.writes[0]
    expect(write?.op === 'patch' && write.patch).to.deep.equal({
      summary: '✓ Valve',
      transparency: 'transparent',
      time: { anchor: zoned(THU, ZONE), minutes: 30 },
    })
  })

  it('both sides when a mark was put on by hand: the task done, the event shown free', () => {
    const { w, event, task } = pair()
    w.edit('b', event, { summary: '✓ Boiler valve' })
    expect(planned(w)[0]?.writes.map(x => [x.side, x.op === 'patch' && x.patch])).to.deep.equal([
      ['a', { status: 'completed' }],
      ['b', { transparency: 'transparent' }],
    ])
    w.pass()
    w.edit('b', event, { summary: 'Boiler valve' })
    w.pass()
    w.pass()
    expect(w.task(task)?.status).to.equal('needs-action')
    expect(w.event(event)?.transparency).to.equal('opaque')
  })

  it('the event gone when the task loses its hour, and made anew with another uid when it has one again', () => {
    const { w, task, event } = pair()
    w.edit('a', task, { start: onDate('2026-11-27') })
    expect(told(planned(w))).to.deep.equal(['remove b no-hour'])
    w.pass()
    expect(w.event(event)).to.equal(undefined)
    w.edit('a', task, { start: zoned(WED, ZONE) })
    w.pass()
    w.pass()
    expect(w.eventOf(task)?.uid).to.be.a('string').and.not.equal(event)
  })

  it('the date taken from a task whose event was deleted; a done one is left as it is', () => {
    const open = pair()
    open.w.events.delete('them', open.event)
    expect(told(planned(open.w))).to.deep.equal(['change a event-deleted'])
    const done = pair()
    done.w.edit('a', done.task, { status: 'completed' })
    done.w.pass()
    done.w.pass()
    done.w.events.delete('them', done.event)
    expect(told(planned(done.w))).to.deep.equal(['release - event-deleted'])
    done.w.pass()
    done.w.edit('a', done.task, { status: 'needs-action' })
    expect(planned(done.w), 'not made again with the same date').to.deep.equal([])
  })

  it('a deletion gives way to a concurrent edit on the other side', () => {
    const moved = pair()
    moved.w.events.delete('them', moved.event)
    moved.w.edit('a', moved.task, { start: zoned(THU, ZONE) })
    expect(told(planned(moved.w))).to.deep.equal(['release - edit-beats-deletion'])
    moved.w.pass()
    expect(told(planned(moved.w)), 'planned like anything untied').to.deep.equal(['make b made-again'])
    const retitled = pair()
    retitled.w.tasks.delete('them', retitled.task)
    retitled.w.edit('b', retitled.event, { summary: 'Still needed' })
    expect(told(planned(retitled.w))).to.deep.equal(['release - edit-beats-deletion'])
    retitled.w.pass()
    retitled.w.pass()
    retitled.w.pass()
    expect([...retitled.w.tasks.items.values()].map(r => r.item.summary)).to.deep.equal(['Still needed'])
  })

  it('the event removed with its task, everything it held named for the journal', () => {
    const { w, task } = pair()
    w.tasks.delete('them', task)
    const [d] = planned(w)
    expect(d && told([d])).to.deep.equal(['remove b task-deleted'])
    expect(d?.writes[0]?.fields.map(f => f.field)).to.deep.equal(['title', 'time', 'completion', 'notes'])
  })

  it('nothing where both were deleted', () => {
    const { w, task, event } = pair()
    w.tasks.delete('them', task)
    w.events.delete('them', event)
    expect(told(planned(w))).to.deep.equal(['release - agreed'])
    w.pass()
    expect(w.activeTies()).to.have.length(0)
  })

  it('a task for a new event, whatever it says of its age; none for what repeats, has guests, or is cancelled', () => {
    const w = new World()
    w.addEvent('New', WED)
    const put = (title: string, patch: object): void => w.edit('b', w.addEvent(title, WED), patch)
    put('Repeats', { recurring: true })
    put('Guests', { attendees: 1 })
    put('Cancelled', { status: 'cancelled' })
    put('Moved', { created: '2026-01-01T00:00:00Z' })
    expect(planned(w).map(d => d.title)).to.deep.equal(['New', 'Moved'])
  })

  it('an all-day event for what it is: a task of that day, and no removal of the event', () => {
    const w = new World()
    const event = w.addEvent('Scaffold', WED)
    w.edit('b', event, { time: { anchor: onDate('2026-11-27'), minutes: 1440 } })
    w.pass()
    w.pass()
    expect([...w.tasks.items.values()].map(r => r.item)).to.have.length(1)
    expect(w.pass()).to.equal(0)
    expect(w.event(event)?.time.anchor).to.deep.equal(onDate('2026-11-27'))
  })
})

describe('a field that goes one way', () => {
  it('takes nothing from what was made on the side that it goes to, until there is something to say', () => {
    const w = new World({ fields: { ...defaultSettings.fields, notes: 'b-to-a' } })
    const task = w.addTask('Boiler valve', WED)
    w.edit('a', task, { description: 'Bring the long ladder' })
    for (let i = 0; i < 3; i++) w.pass()
    const event = w.eventOf(task)?.uid ?? ''
    expect([w.task(task)?.description, w.event(event)?.description]).to.deep.equal([
      'Bring the long ladder',
      '',
    ])
    expect(w.overridden).to.deep.equal([])
    w.edit('b', event, { description: 'No ladder needed' })
    for (let i = 0; i < 3; i++) w.pass()
    expect(w.task(task)?.description).to.equal('No ladder needed')
  })
})

describe('what was left alone', () => {
  it('stays so, also where two lists have no date in common', () => {
    const services = { a: plainService('task'), b: { ...plainService('task'), hasPlan: false } }
    const policies = { made: { a: 'all', b: 'all' }, deleted: { a: 'left', b: 'left' } } as const
    const w = new World(policies, null, { services })
    const task = w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    for (const id of w.services.b.items.keys()) w.services.b.delete('them', id)
    w.pass()
    w.edit('a', task, { summary: 'Boiler valve, again', start: zoned(THU, ZONE) })
    for (let i = 0; i < 3; i++) w.pass()
    expect([w.services.a.items.size, w.services.b.items.size]).to.deep.equal([1, 0])
  })
})

describe('when both sides edit one field', () => {
  it('the one that is seen to be newer counts, and the other is named', () => {
    const { w, task, event } = pair()
    w.edit('a', task, { summary: 'Older' })
    w.now += 1000
    // The task's edit is seen a whole look before the event's: nobody has planned in between.
    w.observeAll()
    w.now += 5000
    w.edit('b', event, { summary: 'Newer' })
    const [d] = planned(w)
    expect(d && told([d])).to.deep.equal(['change a event-edited'])
    expect(d?.overridden).to.deep.equal([{ field: 'title', side: 'a', value: 'Older', because: 'newer' }])
  })

  it('the fallback side counts when they cannot be told apart', () => {
    for (const fallback of ['a', 'b'] as const) {
      const w = new World({ fallback })
      const task = w.addTask('Boiler valve', WED)
      w.pass()
      w.pass()
      w.edit('a', task, { summary: 'From the list' })
      w.edit('b', w.eventOf(task)?.uid ?? '', { summary: 'From the calendar' })
      const overridden = planned(w).flatMap(d => d.overridden)
      expect(overridden.map(o => [o.side, o.because])).to.deep.equal([
        [fallback === 'a' ? 'b' : 'a', 'fallback'],
      ])
      w.pass()
      w.pass()
      expect(w.task(task)?.summary).to.equal(fallback === 'a' ? 'From the list' : 'From the calendar')
    }
  })

  it('nothing is written when both came to the same', () => {
    const { w, task, event } = pair()
    w.edit('a', task, { summary: 'Same' })
    w.edit('b', event, { summary: 'Same' })
    expect(planned(w).flatMap(d => d.writes)).to.deep.equal([])
    expect(w.pass()).to.equal(0)
  })

  it('a title of which the task holds only the beginning is held for a person', () => {
    const w = new World()
    const event = w.addEvent('A title far longer than twenty', WED)
    w.pass()
    w.pass()
    const [task] = [...w.tasks.items.keys()]
    expect(w.task(task ?? '')?.summary).to.equal('A title far longer t')
    w.edit('a', task ?? '', { summary: 'A title, edited' })
    const [d] = planned(w)
    expect([d?.reason, d?.held.map(h => h.field), d?.writes]).to.deep.equal(['held', ['title'], []])
    w.edit('a', task ?? '', { status: 'completed' })
    w.pass()
    w.pass()
    expect(w.event(event)?.summary, 'the rest goes on').to.equal('✓ A title far longer than twenty')
  })
})

describe('first pairing', () => {
  function both(taskTime: string, eventTime: string, settings = {}): World {
    const w = new World(settings)
    w.addTask('Festival map  proof', taskTime)
    w.addEvent('✓ festival map proof', eventTime, 90)
    return w
  }

  it('ties what is on both sides by title and day instead of making it again', () => {
    const [d, ...rest] = planned(both(WED, '2026-11-25T16:00:00'))
    expect(rest).to.deep.equal([])
    expect([d?.effect, d?.writes.map(x => x.side)]).to.deep.equal(['match', ['b']])
    expect(d?.overridden.map(o => [o.field, o.because])).to.deep.include(['time', 'first-winner'])
  })

  it('lets the named side win where they differ', () => {
    const w = both(WED, '2026-11-25T16:00:00', { firstWinner: 'b' })
    w.pass()
    w.pass()
    expect([...w.tasks.items.values()][0]?.item).to.deep.include({
      start: zoned('2026-11-25T16:00:00', ZONE),
      status: 'completed',
    })
  })

  it('never removes what it found: a task of that day takes the event’s hour', () => {
    const w = both('2026-11-25', '2026-11-25T16:00:00')
    w.pass()
    w.pass()
    expect([...w.tasks.items.values()][0]?.item).to.deep.include({
      start: zoned('2026-11-25T16:00:00', ZONE),
    })
    expect(w.events.items.size).to.equal(1)
  })

  it('proposes nothing that is not unique, and nothing somebody said no to', () => {
    const twice = both(WED, WED)
    twice.addEvent('Festival map proof', '2026-11-25T11:00:00')
    expect(planned(twice).some(d => d.effect === 'match')).to.equal(false)
    const declined = both(WED, WED, { declined: ['a:t1 b:e2'] })
    expect(planned(declined).map(d => d.effect)).to.deep.equal(['make', 'make'])
  })
})

describe('who takes part', () => {
  const open = { filter: { a: [{ field: 'category' as const, is: ['night'] }], b: [] } }
  function night(settings: object = {}): { w: World; task: string; event: string } {
    const w = new World({ ...open, ...settings })
    const task = w.addTask('Moth trap', WED)
    w.edit('a', task, { categories: ['night'] })
    w.addTask('By day', WED)
    w.pass()
    w.pass()
    return { w, task, event: w.eventOf(task)?.uid ?? '' }
  }

  it('only what passes the filter; what leaves it gives up its event, and has it again when it is back', () => {
    const { w, task, event } = night()
    expect(w.events.items.size).to.equal(1)
    w.edit('a', task, { categories: [] })
    expect(told(planned(w))).to.deep.equal(['remove b left-filter'])
    w.pass()
    w.edit('a', task, { categories: ['night'] })
    w.pass()
    w.pass()
    expect(w.eventOf(task)?.summary).to.equal('Moth trap')
    expect(w.event(event), 'another one').to.equal(undefined)
  })

  it('the very same pair again, where the event had been left on its own', () => {
    const { w, task, event } = night({ left: { a: 'release', b: 'release' } })
    w.edit('a', task, { categories: [] })
    w.pass()
    w.edit('a', task, { categories: ['night'], summary: 'Moth trap, two lamps' })
    expect(told(planned(w))).to.deep.equal(['match - resumed'])
    w.pass()
    expect(w.event(event)?.summary).to.equal('Moth trap, two lamps')
    expect(w.events.items.size).to.equal(1)
  })

  it('its event cancelled where the rule says so, and kept where that side never loses', () => {
    const marked = night({ left: { a: 'mark', b: 'release' } })
    marked.w.edit('a', marked.task, { categories: [] })
    marked.w.pass()
    expect(marked.w.event(marked.event)).to.include({ status: 'cancelled', transparency: 'transparent' })
    const never = night({ neverLoses: { a: false, b: true } })
    never.w.edit('a', never.task, { categories: [] })
    expect(told(planned(never.w))).to.deep.equal(['release - left-filter'])
  })

  it('no longer than until it is done: completed work obeys the sentence for completed work only', () => {
    const w = new World({ filter: { a: [{ field: 'status', is: ['needs-action'] }], b: [] } })
    const task = w.addTask('Moth trap', WED)
    w.pass()
    w.pass()
    w.edit('a', task, { status: 'completed' })
    w.pass()
    expect(w.eventOf(task)?.summary).to.equal('✓ Moth trap')
  })

  it('a task for an event that bears the mark, and for no other', () => {
    const w = new World({ made: { a: 'nothing', b: 'marked' }, madeMark: '+' })
    w.addTask('Just a task', WED)
    w.addEvent('+ Book the van', WED)
    w.addEvent('Lunch', WED)
    expect(planned(w).map(d => [d.effect, d.title])).to.deep.equal([['make', '+ Book the van']])
  })

  it('sub-tasks not at all, where they are to stay out', () => {
    const w = new World({ subtasks: 'out' })
    const task = w.addTask('Posters', WED)
    w.edit('a', w.addTask('Choose the paper', WED), { parent: task })
    expect(planned(w).map(d => d.title)).to.deep.equal(['Posters'])
  })

  it('what the made task needs to pass its own list’s filter; nothing where that cannot be', () => {
    const w = new World(open)
    w.addEvent('Lamp test', WED)
    const [made] = planned(w)[0]?.writes ?? []
    expect(made?.op === 'create' && made.item.categories).to.deep.equal(['night'])
    const never = new World({ filter: { a: [{ field: 'words', of: ['moth'], without: false }], b: [] } })
    never.addEvent('Lamp test', WED)
    expect(told(planned(never))).to.deep.equal(['none - would-not-fit'])
  })
})

describe('when work ends', () => {
  it('the event is removed with it, and comes back at its time and with its uid when it is reopened', () => {
    const w = new World({ completed: 'remove' })
    const task = w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    const event = w.eventOf(task)?.uid ?? ''
    w.edit('b', event, { time: { anchor: zoned(WED, ZONE), minutes: 75 } })
    w.pass()
    w.edit('a', task, { status: 'completed' })
    w.pass()
    expect(w.event(event)).to.equal(undefined)
    w.edit('a', task, { status: 'needs-action' })
    w.pass()
    w.pass()
    expect(w.event(event)?.time).to.deep.equal({ anchor: zoned(WED, ZONE), minutes: 75 })
  })

  it('the event ends at that moment, and has its length again when it is reopened', () => {
    const w = new World({ completed: 'end' })
    const task = w.addTask('Boiler valve', '2026-11-24T08:30:00')
    w.edit('a', task, { estimatedDuration: 120 })
    w.pass()
    w.pass()
    const event = w.eventOf(task)?.uid ?? ''
    w.edit('a', task, { status: 'completed' })
    w.pass()
    expect(w.event(event)?.time.minutes).to.equal(30)
    w.edit('a', task, { status: 'needs-action' })
    w.pass()
    expect(w.event(event)?.time.minutes).to.equal(120)
  })

  it('by the sentence for a deletion: cancelled, done, a status of its own, made again, or left', () => {
    const cases: [object, object | null][] = [
      [{ deleted: { a: 'left', b: 'cancelled' } }, { status: 'cancelled' }],
      [{ deleted: { a: 'left', b: 'completed' } }, { status: 'completed' }],
      [
        { deleted: { a: 'left', b: 'status' }, deletedStatus: { a: null, b: 'parked' } },
        { serviceStatus: 'parked' },
      ],
      [{ deleted: { a: 'left', b: 'left' } }, { status: 'needs-action' }],
      [{ deleted: { a: 'left', b: 'deleted' } }, null],
    ]
    for (const [settings, expected] of cases) {
      const w = new World(settings)
      const task = w.addTask('Boiler valve', WED)
      w.pass()
      w.pass()
      w.events.delete('them', w.eventOf(task)?.uid ?? '')
      w.pass()
      w.pass()
      if (expected === null) expect(w.task(task)).to.equal(undefined)
      else expect(w.task(task)).to.include(expected)
      expect(w.events.items.size).to.equal(0)
    }
    const again = new World({ deleted: { a: 'again', b: 'again' } })
    const task = again.addTask('Boiler valve', WED)
    again.pass()
    again.pass()
    again.events.delete('them', again.eventOf(task)?.uid ?? '')
    again.pass()
    again.pass()
    expect(again.eventOf(task)?.summary).to.equal('Boiler valve')
  })
})

describe('a side that can only be read', () => {
  it('keeps what it says; the other stays different, and is not asked again and again', () => {
    const w = new World({ made: { a: 'all', b: 'nothing' } }, null, {
      services: { a: plainService('event'), b: plainService('event') },
    })
    w.rules[0] = { ...w.rule, terms: { ...w.rule.terms, a: { ...w.rule.terms.a, writable: false } } }
    w.versions.set('r', [w.rule])
    const visit = w.addEvent('School visit', WED, 30, ZONE, 'a')
    w.pass()
    w.pass()
    const [copy] = [...w.events.items.keys()]
    w.edit('b', copy ?? '', { summary: 'Visit, with lunch' })
    expect(told(planned(w))).to.deep.equal(['none - diverged'])
    w.pass()
    expect(w.pass()).to.equal(0)
    expect(planned(w)).to.deep.equal([])
    expect(w.services.a.items.get(visit)?.item.summary).to.equal('School visit')
  })
})

describe('further blocks of a task', () => {
  /** A task with its event, and a block two days later. */
  function blocked(settings: object = {}): { w: World; task: string; event: string; block: string } {
    const w = new World(settings)
    const task = w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    const event = w.eventOf(task)?.uid ?? ''
    const block = w.addEvent('Boiler valve', '2026-11-27T09:00:00')
    w.observeAll()
    const base = { title: { a: 'Boiler valve', b: 'Boiler valve' } }
    const ids = { id: 'block', role: 'block' as const, a: `a:${task}`, b: `b:${block}` }
    w.ties.set('block', { ...ids, base, memory: {}, released: null, rule: 'r', version: 0, count: 0, at: 0 })
    return { w, task, event, block }
  }
  const blockTie = (w: World) => w.ties.get('block')

  it('bear the task’s title; deleting one unplans that part and touches nothing else', () => {
    const { w, task, event, block } = blocked()
    w.edit('a', task, { summary: 'Boiler valves' })
    w.pass()
    expect([w.event(event)?.summary, w.event(block)?.summary]).to.deep.equal([
      'Boiler valves',
      'Boiler valves',
    ])
    const before = w.task(task)
    w.events.delete('them', block)
    w.pass()
    expect(blockTie(w)?.released).to.equal('block-removed')
    expect(w.task(task)).to.deep.equal(before)
  })

  it('take the place of the task’s own event when that is deleted', () => {
    const { w, task, event, block } = blocked()
    w.events.delete('them', event)
    w.pass()
    w.pass()
    expect(w.task(task)?.start).to.deep.equal(zoned('2026-11-27T09:00:00', ZONE))
    expect(w.eventOf(task)?.uid).to.equal(w.event(block)?.uid)
    expect(w.pass()).to.equal(0)
  })

  it('are settled when the task is done: removed, shown free, or kept', () => {
    const outcome = (blocksAhead: 'remove' | 'free' | 'keep'): string | undefined => {
      const { w, task, block } = blocked({ blocksAhead })
      w.edit('a', task, { status: 'completed' })
      w.pass()
      w.pass()
      return w.event(block)?.transparency
    }
    expect([outcome('remove'), outcome('free'), outcome('keep')]).to.deep.equal([
      undefined,
      'transparent',
      'opaque',
    ])
  })

  it('keep a title that somebody gave them, from then on, and are otherwise named like their task', () => {
    const { w, task, event, block } = blocked()
    w.edit('b', block, { summary: 'Drain the boiler first' })
    w.pass()
    w.edit('a', task, { summary: 'Boiler valves' })
    w.pass()
    expect([w.event(event)?.summary, w.event(block)?.summary]).to.deep.equal([
      'Boiler valves',
      'Drain the boiler first',
    ])
    expect(blockTie(w)?.memory.ownTitle).to.equal(true)
    expect(w.pass()).to.equal(0)
  })

  it('remember the title they were made with, so that a later one of their own is known for that', () => {
    const { w, block } = blocked()
    const tie = w.ties.get('block')
    if (tie) w.ties.set('block', { ...tie, base: {} })
    w.pass()
    expect(blockTie(w)?.base.title).to.deep.equal({ a: 'Boiler valve', b: 'Boiler valve' })
    w.edit('b', block, { summary: 'Drain' })
    w.pass()
    expect([blockTie(w)?.memory.ownTitle, w.event(block)?.summary]).to.deep.equal([true, 'Drain'])
  })

  it('made with a title of their own keep it from the first, whatever becomes of the task’s', () => {
    const { w, task, block } = blocked()
    const tie = w.ties.get('block')
    if (tie) w.ties.set('block', { ...tie, base: {}, memory: { ...tie.memory, ownTitle: true } })
    w.edit('b', block, { summary: 'Drain' })
    w.pass()
    w.edit('a', task, { summary: 'Boiler valves' })
    w.pass()
    expect(w.event(block)?.summary).to.equal('Drain')
    expect(w.pass()).to.equal(0)
  })

  it('of a batch have their own title and time, whatever becomes of one of its tasks', () => {
    const { w, task, block } = blocked()
    const tie = w.ties.get('block')
    if (tie) w.ties.set('block', { ...tie, role: 'batch', base: {} })
    w.edit('a', task, { summary: 'Boiler valves', status: 'completed' })
    w.pass()
    w.pass()
    expect(w.event(block)).to.include({ summary: 'Boiler valve', transparency: 'opaque' })
    w.tasks.delete('them', task)
    w.pass()
    expect([blockTie(w)?.released, w.event(block)?.summary]).to.deep.equal(['block-removed', 'Boiler valve'])
  })
})

describe('what colleagues see of an event that a rule made', () => {
  it('says in its categories that it is a task block and may be moved, where the rule says so', () => {
    const made = (settings: object): string[] | undefined => {
      const w = new World(settings)
      const task = w.addTask('Boiler valve', WED)
      w.pass()
      w.pass()
      return w.eventOf(task)?.categories
    }
    expect(made({ tellKind: true })).to.deep.equal(['Task block', 'Movable'])
    expect(made({})).to.deep.equal([])
  })

  it('keeps what somebody says of it there: that is no category of the work, and does not travel', () => {
    const fields = { ...defaultSettings.fields, categories: 'both' as const }
    const w = new World({ tellKind: true, fields })
    const task = w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    const event = w.eventOf(task)?.uid ?? ''
    w.edit('b', event, { categories: ['Task block', 'Fixed', 'Winter'] })
    w.pass()
    w.pass()
    expect(w.task(task)?.categories).to.deep.equal(['Winter'])
    w.edit('a', task, { categories: ['Winter', 'Heating'] })
    w.pass()
    w.pass()
    expect(w.event(event)?.categories.sort()).to.deep.equal(['Fixed', 'Heating', 'Task block', 'Winter'])
    expect(w.pass()).to.equal(0)
  })

  it('makes no event for a task without a date, though the rule does not carry the time', () => {
    const fields = { ...defaultSettings.fields, time: 'off' as const }
    const w = new World({ fields })
    w.addTask('Some time', null)
    w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    expect([...w.events.items.values()].map(e => e.item.summary)).to.deep.equal(['Boiler valve'])
  })
})

describe('an event that a rule removes when its task is done', () => {
  it('first hands over what was changed on it in the same moment', () => {
    const w = new World({ completed: 'remove' })
    const task = w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    const event = w.eventOf(task)?.uid ?? ''
    const later = zoned('2026-11-27T15:00:00', ZONE)
    w.edit('a', task, { status: 'completed' })
    w.edit('b', event, { time: { anchor: later, minutes: 45 }, description: 'Took the long ladder' })
    w.pass()
    w.pass()
    w.pass()
    expect(w.event(event), 'it is removed').to.equal(undefined)
    expect(w.task(task)).to.deep.include({ start: later, description: 'Took the long ladder' })
    w.edit('a', task, { status: 'needs-action' })
    w.pass()
    w.pass()
    expect(w.event(event)?.time.anchor, 'and comes back where it was last').to.deep.equal(later)
    expect(w.pass()).to.equal(0)
  })

  it('is back at the time that counts, whatever was done to it against the way of the rule', () => {
    const w = new World({
      completed: 'remove',
      fields: { ...defaultSettings.fields, time: 'a-to-b' },
    })
    const task = w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    w.edit('b', w.eventOf(task)?.uid ?? '', { time: { anchor: zoned(THU, ZONE), minutes: 60 } })
    w.edit('a', task, { status: 'completed' })
    for (let i = 0; i < 3; i++) w.pass()
    expect(w.eventOf(task)).to.equal(undefined)
    w.edit('a', task, { status: 'needs-action' })
    for (let i = 0; i < 3; i++) w.pass()
    expect(w.eventOf(task)?.time.anchor).to.deep.equal(zoned(WED, ZONE))
  })
})

describe('a tie that follows an item to another list', () => {
  it('agrees on what was agreed before, in the words of the new home, and keeps what was not', () => {
    const w = new World({})
    const rule = w.rules[0]
    if (!rule) throw new Error('no rule')
    const before = newTask('t', {
      summary: 'A very long title indeed',
      description: 'kept',
      status: 'needs-action',
    })
    const after = { ...before, uid: 't2', summary: 'A very long', description: '' }
    const agreed = { title: { a: before.summary, b: before.summary }, notes: { a: 'older', b: 'older' } }
    const tie = { id: 'x', role: 'mirror' as const, a: 'a', b: 'b', base: agreed, memory: {}, released: null }
    const { base } = followed(rule, tie, 'a', before, after)
    // The cut title is what that side now says of the same; the edited notes stay an edit.
    expect(base.title).to.deep.equal({ a: 'A very long', b: before.summary })
    expect(base.notes).to.deep.equal(agreed.notes)
  })
})
