import { expect } from 'chai'
import { defaultSettings, newEvent, type RuleSettings, type Task, zoned } from '../src/index.ts'
import { World, ZONE } from './model/world.ts'

/** What was deleted and is back, under its own address or another. */
describe('an item that returns', () => {
  const WED = '2026-11-25T09:00:00'
  const rest = (w: World): void => {
    for (let n = 0; n < 5; n++) w.pass()
    expect(w.pass()).to.equal(0)
  }
  const paired = (settings: object, done = false): { w: World; task: string; event: string } => {
    const w = new World(settings)
    const task = w.addTask('Boiler valve', WED)
    rest(w)
    if (done) w.edit('a', task, { status: 'completed' })
    rest(w)
    return { w, task, event: w.eventOf(task)?.uid ?? '' }
  }
  /** The event is deleted, what follows comes about, `meanwhile` happens, and it is put back. */
  function andBack(w: World, id: string, as: string, meanwhile = (): void => undefined): void {
    const kept = w.events.items.get(id)
    if (!kept) throw new Error('no event')
    w.events.delete('them', id)
    rest(w)
    meanwhile()
    w.events.restore(as, kept.item, kept.origin)
    rest(w)
  }
  const POLICIES: RuleSettings['deleted']['b'][] = [
    'left',
    'undated',
    'cancelled',
    'completed',
    'status',
    'again',
  ]

  // What was moved where that is not carried over, or loses to the deletion, was not dated anew by it.
  for (const time of ['once', 'b-to-a', 'both'] as const)
    for (const conflict of ['newest', 'b'] as const)
      for (const policy of ['left', 'deleted'] as const)
        it(`is not missed by a task that had been moved: time ${time}, ${conflict}, deletions “${policy}”`, () => {
          const fields = { ...defaultSettings.fields, time }
          const { w, task, event } = paired({ fields, conflict, deleted: { a: 'deleted', b: policy } })
          const before = w.tasks.items.get(task)
          w.edit('a', task, { start: zoned('2026-11-26T14:30:00', ZONE) })
          if (time === 'once') rest(w)
          const moved = w.tasks.items.get(task)
          w.events.delete('them', event)
          rest(w)
          // An edit that is carried over beats what would destroy it, where nothing is said of who is right.
          const again = time === 'both' && conflict === 'newest' ? 1 : 0
          expect(w.events.items.size, 'events').to.equal(again)
          if (policy === 'left' || again === 1) return
          // What went for it comes back by itself, and asks for nothing.
          expect(w.tasks.items.size, 'tasks').to.equal(0)
          const kept = time === 'b-to-a' ? before : moved
          if (!kept) throw new Error('no task')
          w.tasks.restore(
            task,
            { ...kept.item, ...(moved && { start: (moved.item as Task).start }) } as Task,
            kept.origin,
          )
          rest(w)
          expect([w.tasks.items.size, w.events.items.size]).to.deep.equal([1, 0])
          // Dated anew, it has an event again.
          w.edit('a', task, { start: zoned('2026-11-27T11:00:00', ZONE) })
          rest(w)
          expect(w.events.items.size).to.equal(1)
        })

  for (const policy of POLICIES)
    for (const done of [false, true])
      for (const address of ['its own address', 'another'])
        it(`takes its pair up again under ${address}, where deletions are “${policy}”, ${done ? 'done' : 'open'}`, () => {
          const { w, task, event } = paired(
            { deleted: { a: 'deleted', b: policy }, deletedStatus: { a: null, b: 'parked' } },
            done,
          )
          const [before, was] = [w.task(task), w.event(event)]
          andBack(w, event, address === 'another' ? 'elsewhere.ics' : event)
          const now = w.task(task)
          expect([now?.status, now?.start, now?.serviceStatus]).to.deep.equal([
            before?.status,
            before?.start,
            before?.serviceStatus,
          ])
          // Made again already, it has another counterpart: two stand there, and nothing is deleted.
          const again = policy === 'again'
          expect([w.tasks.items.size, w.events.items.size]).to.deep.equal([1, again ? 2 : 1])
          if (again) return
          expect(w.eventOf(task)?.summary).to.equal(was?.summary)
          w.edit('a', task, { summary: 'Boiler valves' })
          rest(w)
          expect(w.eventOf(task)?.summary, 'edits go over again').to.contain('Boiler valves')
        })

  it('makes the counterpart that was deleted for it again, with its uid', () => {
    const { w, task, event } = paired({ deleted: { a: 'deleted', b: 'deleted' } })
    andBack(w, event, event)
    expect([...w.tasks.items.keys()]).to.deep.equal([task])
    expect(w.eventOf(task)?.uid).to.equal(event)
  })

  it('is tied again where its counterpart, deleted for it, is put back as well', () => {
    const { w, task, event } = paired({ deleted: { a: 'deleted', b: 'deleted' } })
    const kept = w.tasks.items.get(task)
    andBack(w, event, event, () => {
      if (kept) w.tasks.restore(task, kept.item, kept.origin)
    })
    expect([w.tasks.items.size, w.events.items.size]).to.deep.equal([1, 1])
    expect(w.eventOf(task)?.uid).to.equal(event)
  })

  it('does not put back what somebody has said meanwhile', () => {
    const { w, task, event } = paired({ deleted: { a: 'deleted', b: 'cancelled' } })
    andBack(w, event, event, () => w.edit('a', task, { status: 'completed', summary: 'Valve' }))
    expect(w.task(task)).to.include({ status: 'completed', summary: 'Valve' })
    expect(w.event(event)?.summary).to.equal('✓ Valve')
  })

  it('makes no second event for a task that got another date, and an event of its own, meanwhile', () => {
    const { w, task, event } = paired({})
    const other = zoned('2026-11-27T09:00:00', ZONE)
    andBack(w, event, event, () => {
      w.edit('a', task, { start: other })
      rest(w)
    })
    expect(w.events.items.size).to.equal(2)
    expect(w.task(task)?.start).to.deep.equal(other)
    expect(w.eventOf(task)?.uid).not.to.equal(event)
  })

  it('brings no edits where it is older than what was agreed on, and its own where it was changed since', () => {
    for (const [modified, expected] of [
      ['2026-11-01T00:00:00.000Z', 'Boiler valve'],
      ['2027-01-01T00:00:00.000Z', 'Old words'],
    ] as const) {
      const { w, task, event } = paired({ deleted: { a: 'deleted', b: 'left' } })
      w.edit('b', event, { summary: 'Old words' })
      rest(w)
      w.edit('b', event, { summary: 'Boiler valve' })
      rest(w)
      w.events.delete('them', event)
      rest(w)
      const item = newEvent(event, { anchor: zoned(WED, ZONE), minutes: 30 }, { summary: 'Old words' })
      w.events.restore(event, { ...item, lastModified: modified }, event)
      rest(w)
      expect([w.task(task)?.summary, w.event(event)?.summary]).to.deep.equal([expected, expected])
    }
  })

  it('is asked for again where putting back is refused, also where the time goes one way', () => {
    for (const time of ['both', 'a-to-b'] as const) {
      const { w, task, event } = paired({ fields: { ...defaultSettings.fields, time } })
      const kept = w.events.items.get(event)
      w.events.delete('them', event)
      rest(w)
      expect(w.task(task)?.start).to.equal(null)
      w.events.restore(event, kept?.item ?? newEvent(event, { anchor: zoned(WED, ZONE), minutes: 30 }), event)
      w.pass({ fault: () => 'edited-before' })
      rest(w)
      expect(w.task(task)?.start).to.deep.equal(zoned(WED, ZONE))
      expect(w.eventOf(task)?.uid).to.equal(event)
    }
  })

  it('is nobody’s pair after ninety days', () => {
    const { w, task, event } = paired({ deleted: { a: 'deleted', b: 'left' } })
    andBack(w, event, event, () => (w.now += 91 * 86_400_000))
    expect(w.eventOf(task)).to.equal(undefined)
    expect([w.tasks.items.size, w.events.items.size]).to.deep.equal([1, 1])
  })
})
