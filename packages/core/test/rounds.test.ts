import { expect } from 'chai'
import { type Decision, defaultSettings, newTask, onDate, type RuleSettings, zoned } from '../src/index.ts'
import { plainService } from './model/service.ts'
import { World, ZONE } from './model/world.ts'
import { withoutPrivate } from './support/private-matters.ts'

/** Tasks that their service moves on in place, round by round. */
describe('a repeating task', () => {
  const WED = '2026-11-25T10:00:00'
  const NEXT = '2026-12-02T10:00:00'

  function pair(settings: Partial<RuleSettings> = {}): { w: World; task: string; event: string } {
    const w = new World({ made: { a: 'all', b: 'new' }, ...settings })
    const task = w.addTask('Air the glasshouse', WED, 'a', true)
    w.pass()
    w.pass()
    w.now += 60_000
    return { w, task, event: w.eventOf(task)?.uid ?? '' }
  }
  const rest = (w: World): void => {
    for (let i = 0; i < 4; i++) w.pass()
  }
  const told = (ds: Decision[]): string[] => ds.map(d => `${d.effect} ${d.on ?? '-'} ${d.reason}`)
  const at = (local: string) => ({ anchor: zoned(local, ZONE), minutes: 30 })

  it('has an event for the round that is current; one that is done keeps its event, marked', () => {
    const { w, task, event } = pair()
    w.edit('a', task, { status: 'completed' })
    w.observeAll()
    expect(told(w.plan())).to.deep.equal(['change b advanced'])
    rest(w)
    expect(w.event(event)).to.deep.include({ summary: '✓ Air the glasshouse', time: at(WED) })
    expect(w.eventOf(task)).to.deep.include({ summary: 'Air the glasshouse', time: at(NEXT) })
    expect(w.events.items.size).to.equal(2)
  })

  it('is completed by the mark in the calendar, for that round only', () => {
    const { w, task, event } = pair()
    w.edit('b', event, { summary: '✓ Air the glasshouse' })
    w.observeAll()
    const [write] = w.plan()[0]?.writes ?? []
    expect(write).to.deep.include({ op: 'patch', side: 'a', patch: { status: 'completed' }, occurrence: '0' })
    rest(w)
    expect(w.task(task)).to.include({ status: 'needs-action', occurrence: '1' })
    expect(w.event(event)?.time).to.deep.equal(at(WED))
    expect(w.eventOf(task)?.time).to.deep.equal(at(NEXT))
  })

  it('that jumps without being done has moved: its event moves along', () => {
    const { w, task, event } = pair()
    w.edit('a', task, { start: zoned(NEXT, ZONE) })
    rest(w)
    expect(w.event(event)).to.deep.include({ summary: 'Air the glasshouse', time: at(NEXT) })
    expect(w.events.items.size).to.equal(1)
  })

  it('keeps its date and its other rounds when the event of one is deleted', () => {
    for (const b of ['undated', 'deleted'] as const) {
      const { w, task, event } = pair({ deleted: { a: 'deleted', b } })
      w.events.delete('them', event)
      rest(w)
      expect(w.task(task)?.start, b).to.deep.equal(zoned(WED, ZONE))
      expect(w.events.items.size, 'not made again for this round').to.equal(0)
      w.edit('a', task, { status: 'completed' })
      rest(w)
      expect(w.eventOf(task)?.time, b).to.deep.equal(at(NEXT))
    }
  })

  it('has what the rule says become of the event of a round that is done', () => {
    const removed = pair({ completed: 'remove' })
    removed.w.edit('a', removed.task, { status: 'completed' })
    rest(removed.w)
    expect(removed.w.event(removed.event)).to.equal(undefined)
    expect(removed.w.eventOf(removed.task)?.time).to.deep.equal(at(NEXT))
    const kept = pair({ completed: 'keep' })
    kept.w.edit('a', kept.task, { status: 'completed' })
    rest(kept.w)
    expect(kept.w.event(kept.event)).to.deep.include({ summary: 'Air the glasshouse', time: at(WED) })
    expect(kept.w.eventOf(kept.task)?.time).to.deep.equal(at(NEXT))
  })

  it('takes over what was changed in the calendar in the moment in which the round ended', () => {
    const { w, task, event } = pair()
    w.edit('a', task, { status: 'completed' })
    w.edit('b', event, { summary: 'Air House 3', time: at('2026-11-25T15:00:00') })
    rest(w)
    expect(w.task(task)).to.deep.include({ summary: 'Air House 3', start: zoned(NEXT, ZONE) })
    expect(w.event(event)).to.deep.include({ summary: '✓ Air House 3', time: at('2026-11-25T15:00:00') })
    expect(w.eventOf(task)).to.deep.include({ summary: 'Air House 3', time: at(NEXT) })
  })

  it('keeps its event where it was moved and marked in the same moment, though the rule is edited then', () => {
    const { w, event } = pair()
    w.edit('b', event, { summary: '✓ Air the glasshouse', time: at('2026-11-26T10:00:00') })
    w.pass()
    w.editRule(0, { title: '{title} (bench)' })
    rest(w)
    expect(w.event(event)?.time).to.deep.equal(at('2026-11-26T10:00:00'))
  })

  it('takes no deadline of the next round back to the one that is done, in another list too', () => {
    const fields = { ...defaultSettings.fields, due: 'both' as const }
    const w = new World({ fields, made: { a: 'all', b: 'all' } }, null, {
      services: { a: plainService('task'), b: plainService('task') },
    })
    const round = (n: number) => ({
      ...newTask('t', {
        summary: 'Air',
        start: zoned(n ? NEXT : WED, ZONE),
        due: onDate(n ? '2026-12-03' : '2026-11-26'),
      }),
      recurring: true,
      occurrence: String(n),
    })
    w.tasks.put('them', 't', round(0))
    rest(w)
    const [first] = [...w.services.b.items.keys()]
    w.tasks.put('them', 't', round(1))
    rest(w)
    const there = [...w.services.b.items].map(([id, { item }]) => [
      id === first,
      item.status,
      item.kind === 'task' && item.due,
    ])
    expect(there).to.deep.equal([
      [true, 'completed', onDate('2026-11-26')],
      [false, 'needs-action', onDate('2026-12-03')],
    ])
  })

  it('that was tied before it began to repeat goes on in rounds from there', () => {
    const w = new World()
    const task = w.addTask('Water', WED)
    rest(w)
    const event = w.eventOf(task)?.uid ?? ''
    w.tasks.put('them', task, {
      ...newTask(task, { summary: 'Water', start: zoned(WED, ZONE) }),
      recurring: true,
      occurrence: '0',
    })
    rest(w)
    w.edit('a', task, { status: 'completed' })
    rest(w)
    expect(w.event(event)?.summary).to.equal('✓ Water')
    expect(w.eventOf(task)?.time).to.deep.equal(at(NEXT))
  })

  it('whose rounds its service does not tell apart is left alone, and the preview says so', () => {
    const w = new World()
    const task = w.addTask('Turn compost', WED, 'a', true)
    w.tasks.put('them', task, {
      ...newTask(task, { summary: 'Turn compost', start: onDate('2026-11-25') }),
      recurring: true,
    })
    w.observeAll()
    expect(told(w.plan())).to.deep.equal(['none - series'])
  })

  it('comes to rest at a service that trims notes, which are the same in any round', () => {
    const services = { a: { ...plainService('task'), trimsNotes: true } }
    const fields = { ...defaultSettings.fields, notes: 'b-to-a' as const }
    const w = new World({ fields }, null, { services })
    const task = w.addTask('Air the glasshouse', WED, 'a', true)
    rest(w)
    w.edit('b', w.eventOf(task)?.uid ?? '', { description: 'Both doors ' })
    w.edit('a', task, { status: 'completed', description: 'One door' })
    rest(w)
    expect(w.task(task)?.description).to.equal('Both doors')
    expect(w.pass()).to.equal(0)
  })

  it('that was out of a rule for a round leaves the event of that round where it is', () => {
    const { w, task, event } = pair({ filter: withoutPrivate, left: { a: 'release', b: 'release' } })
    w.edit('a', task, { description: 'private' })
    rest(w)
    w.edit('a', task, { status: 'completed' })
    w.edit('a', task, { description: '' })
    rest(w)
    expect(w.event(event)?.time).to.deep.equal(at(WED))
    expect(w.eventOf(task)?.time).to.deep.equal(at(NEXT))
  })
})
