import { expect } from 'chai'
import {
  confirmWrite,
  defaultSettings,
  mergeChecklist,
  newEvent,
  newTask,
  zoned,
  type Mirror,
  type Tie,
} from '../src/index.ts'
import { World, ZONE } from './model/world.ts'

/** A decision asks for two writes, or for something to be remembered with one; one of them is refused. */
describe('a write that is refused', () => {
  const WED = '2026-11-25T09:00:00'
  /** The n-th write of the next pass meets an edit that nobody knew of yet. */
  const refusing = (w: World, nth: number): void => {
    let sent = 0
    w.pass({ fault: () => (sent++ === nth ? 'edited-before' : 'none') })
  }
  const paired = (settings: object = {}): { w: World; task: string; event: string } => {
    const w = new World(settings)
    const task = w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    return { w, task, event: w.eventOf(task)?.uid ?? '' }
  }
  const rest = (w: World): void => {
    w.pass()
    w.pass()
    expect(w.pass()).to.equal(0)
  }
  const state = (w: World, task: string, event: string) => [
    w.task(task)?.status,
    w.event(event)?.summary,
    w.event(event)?.transparency,
  ]

  for (const nth of [0, 1]) {
    it(`leaves a mark standing, and is asked for again (${nth + 1})`, () => {
      const { w, task, event } = paired()
      w.edit('b', event, { summary: '✓ Boiler valve' })
      refusing(w, nth)
      rest(w)
      expect(state(w, task, event)).to.deep.equal(['completed', '✓ Boiler valve', 'transparent'])
    })

    it(`gives way to the mark that is taken away before it is asked for again (${nth + 1})`, () => {
      const { w, task, event } = paired()
      w.edit('b', event, { summary: '✓ Boiler valve' })
      refusing(w, nth)
      w.edit('b', event, { summary: 'Boiler valve' })
      rest(w)
      expect(state(w, task, event)).to.deep.equal(['needs-action', 'Boiler valve', 'opaque'])
    })

    it(`goes on from the last word where what takes it back is refused too (${nth + 1})`, () => {
      const { w, task, event } = paired()
      w.edit('b', event, { summary: '✓ Boiler valve' })
      refusing(w, 1)
      // The event was shown free all the same, and is marked no longer.
      w.edit('b', event, { summary: 'Boiler valve', transparency: 'transparent' })
      refusing(w, nth)
      rest(w)
      expect(w.task(task)?.status).to.equal('needs-action')
    })

    it(`leaves labels that were given on both sides at once to both, and those given since (${nth + 1})`, () => {
      const { w, task, event } = paired({ fields: { ...defaultSettings.fields, categories: 'both' } })
      w.edit('a', task, { categories: ['Autumn'] })
      w.edit('b', event, { categories: ['House 3'] })
      refusing(w, nth)
      const [side, id] = nth === 1 ? (['b', event] as const) : (['a', task] as const)
      const now = w.services[side].items.get(id)?.item.categories ?? []
      w.edit(side, id, { categories: [...now, 'Late'] })
      rest(w)
      for (const item of [w.task(task), w.event(event)])
        expect([...(item?.categories ?? [])].sort()).to.deep.equal(['Autumn', 'House 3', 'Late'])
    })
  }

  it('does not forget that an event is to end when its work is done, nor how long it was', () => {
    const { w, task, event } = paired({ completed: 'end' })
    w.edit('b', event, { time: { anchor: zoned(WED, ZONE), minutes: 120 } })
    rest(w)
    w.now = Date.parse('2026-11-25T09:40:00Z')
    w.edit('a', task, { status: 'completed' })
    refusing(w, 0)
    expect(w.event(event)?.time.minutes).to.equal(120)
    w.pass()
    expect(w.event(event)?.time.minutes).to.be.within(30, 60)
    w.edit('a', task, { status: 'needs-action' })
    refusing(w, 0)
    rest(w)
    expect(w.event(event)?.time.minutes).to.equal(120)
  })

  it('does not let a further block lose the place that it took', () => {
    const { w, task, event } = paired()
    const block = w.addEvent('Boiler valve', '2026-11-27T09:00:00')
    w.observeAll()
    const base = { title: { a: 'Boiler valve', b: 'Boiler valve' } }
    const ids = { id: 'block', role: 'block' as const, a: `a:${task}`, b: `b:${block}` }
    w.ties.set('block', { ...ids, base, memory: {}, released: null, rule: 'r', version: 0, count: 0, at: 0 })
    w.events.delete('them', event)
    refusing(w, 0)
    rest(w)
    expect(w.task(task)?.start).to.deep.equal(zoned('2026-11-27T09:00:00', ZONE))
    expect(w.eventOf(task)?.uid).to.equal(w.event(block)?.uid)
  })

  it('does not lose the tick of a sub-task', () => {
    const part = (done: boolean): Mirror => ({
      id: 'part',
      collectionId: 'a',
      remoteId: 'part',
      revision: '1',
      item: newTask('part', { summary: 'Cover', status: done ? 'completed' : 'needs-action' }),
      presence: 'present',
      seen: {},
      firstSeenAt: 0,
      arrivedAt: 0,
    })
    const event = (done: boolean) =>
      newEvent(
        'e',
        { anchor: zoned(WED, ZONE), minutes: 60 },
        { description: `Parts:\n${done ? '☑' : '☐'} Cover` },
      )
    const agreed = [{ title: 'Cover', done: false }]
    const tie: Tie = {
      id: 't',
      role: 'mirror',
      a: 'a',
      b: 'e',
      base: { subtasks: { a: agreed, b: agreed } },
      memory: {},
      released: null,
    }
    const first = mergeChecklist(tie, [part(false)], event(true))
    expect(first.ticked.map(t => t.done)).to.deep.equal([true])
    // Its write came to nothing; the notes are read again, and meanwhile other notes were confirmed.
    const { rule } = new World()
    const write = {
      op: 'patch' as const,
      side: 'b' as const,
      tieId: 't',
      mirrorId: 'e',
      revision: '1',
      patch: {},
      fields: [],
      expect: { subtasks: first.base },
      release: null,
    }
    const returned = { item: event(true), before: event(true), mirrorId: 'e', revisionIsOurs: true }
    const then = confirmWrite(rule, tie, write, returned)
    const again = mergeChecklist(then, [part(false)], event(true))
    expect(again.ticked.map(t => t.done)).to.deep.equal([true])
    expect(again.write).to.equal(null)
    const done = mergeChecklist(then, [part(true)], event(true))
    expect([done.ticked, done.write]).to.deep.equal([[], null])
    expect(done.base.b).to.deep.equal([{ title: 'Cover', done: true }])
  })
})
