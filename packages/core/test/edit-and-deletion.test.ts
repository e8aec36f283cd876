import { expect } from 'chai'
import { defaultSettings, type Field, zoned } from '../src/index.ts'
import { World, ZONE } from './model/world.ts'

/** One side of a pair is edited and the other deleted before anybody looks: the edit beats what would destroy it. */
describe('an edit on one side and a deletion on the other', () => {
  const WED = '2026-11-25T09:00:00'
  const fields = { ...defaultSettings.fields, categories: 'both' as const, priority: 'both' as const }
  const paired = (settings: object = {}): { w: World; task: string; event: string } => {
    const w = new World({ fields, ...settings })
    const task = w.addTask('Boiler valve', WED)
    w.pass()
    w.pass()
    return { w, task, event: w.eventOf(task)?.uid ?? '' }
  }
  const rest = (w: World): void => {
    for (let n = 0; n < 4; n++) w.pass()
    expect(w.pass()).to.equal(0)
  }
  const EDITS: [Field, object][] = [
    ['title', { summary: 'Boiler valve, spare' }],
    ['notes', { description: 'In the back room.' }],
    ['priority', { priority: 1 }],
    ['categories', { categories: ['Autumn'] }],
    ['time', { time: { anchor: zoned('2026-11-26T10:00:00', ZONE), minutes: 45 } }],
    ['completion', { summary: '✓ Boiler valve' }],
  ]
  for (const [field, patch] of EDITS) {
    it(`keeps an event whose ${field} was edited, and makes its task again`, () => {
      const { w, task, event } = paired()
      w.edit('b', event, patch)
      w.tasks.delete('them', task)
      rest(w)
      expect(w.event(event)).to.include(patch.constructor === Object && 'summary' in patch ? patch : {})
      expect([w.tasks.items.size, w.events.items.size]).to.deep.equal([1, 1])
    })

    it(`lets the event go when it is deleted again, after its ${field} was edited once`, () => {
      const { w, task, event } = paired()
      w.edit('b', event, patch)
      w.tasks.delete('them', task)
      rest(w)
      for (const id of [...w.tasks.items.keys()]) w.tasks.delete('them', id)
      rest(w)
      expect([w.tasks.items.size, w.events.items.size]).to.deep.equal([0, 0])
    })
  }

  it('keeps what waits for an answer when the other side is deleted', () => {
    const { w, task, event } = paired({ conflict: 'ask' })
    w.edit('a', task, { summary: 'Valve, said A' })
    w.edit('b', event, { summary: 'Valve, said B' })
    rest(w)
    w.tasks.delete('them', task)
    rest(w)
    expect(w.event(event)?.summary).to.equal('Valve, said B')
    expect([...w.tasks.items.values()].map(k => k.item.summary)).to.deep.equal(['Valve, said B'])
  })

  it('keeps a done task that was edited while its copy in another list was deleted', () => {
    const w = new World(
      { fields, deleted: { a: 'deleted', b: 'deleted' }, made: { a: 'all', b: 'all' } },
      null,
      {
        rules: [{ id: 'r', a: 'a', b: 'c' }],
      },
    )
    const task = w.addTask('Boiler valve', WED)
    rest(w)
    w.edit('a', task, { status: 'completed' })
    rest(w)
    w.edit('a', task, { description: 'The old one is in the shed.' })
    for (const id of [...w.services.c.items.keys()]) w.services.c.delete('them', id)
    rest(w)
    expect(w.task(task)?.description).to.equal('The old one is in the shed.')
  })

  it('does not take the date of a task that was given another, but lets it go where only its title was edited', () => {
    const moved = paired()
    moved.w.edit('a', moved.task, { start: zoned('2026-11-27T09:00:00', ZONE) })
    moved.w.events.delete('them', moved.event)
    rest(moved.w)
    expect(moved.w.task(moved.task)?.start).to.deep.equal(zoned('2026-11-27T09:00:00', ZONE))
    expect(moved.w.eventOf(moved.task)?.time.anchor).to.deep.equal(zoned('2026-11-27T09:00:00', ZONE))
    const renamed = paired()
    renamed.w.edit('a', renamed.task, { summary: 'Boiler valves' })
    renamed.w.events.delete('them', renamed.event)
    rest(renamed.w)
    expect(renamed.w.task(renamed.task)).to.include({ summary: 'Boiler valves', start: null })
  })

  it('does not close a task that was reopened meanwhile, and closes one whose title was edited', () => {
    const settings = { deleted: { a: 'deleted', b: 'completed' } }
    const reopened = paired(settings)
    reopened.w.edit('a', reopened.task, { status: 'completed' })
    rest(reopened.w)
    reopened.w.edit('a', reopened.task, { status: 'needs-action' })
    reopened.w.events.delete('them', reopened.event)
    rest(reopened.w)
    expect(reopened.w.task(reopened.task)?.status).to.equal('needs-action')
    const renamed = paired(settings)
    renamed.w.edit('a', renamed.task, { summary: 'Boiler valves' })
    renamed.w.events.delete('them', renamed.event)
    rest(renamed.w)
    expect(renamed.w.task(renamed.task)).to.include({ summary: 'Boiler valves', status: 'completed' })
  })

  for (const left of ['remove', 'mark'] as const)
    it(`carries an edit over before the item that left the filter is out (${left})`, () => {
      const { w, task, event } = paired({
        filter: { a: [{ field: 'words', of: ['private'], without: true }], b: [] },
        left: { a: left, b: 'release' },
        conflict: 'ask',
      })
      w.edit('b', event, {
        summary: left === 'mark' ? '✓ Boiler valve' : 'Boiler valve',
        description: 'Bring the ladder.',
      })
      w.edit('a', task, { summary: 'Boiler valve, private' })
      rest(w)
      expect(w.task(task)?.description).to.equal('Bring the ladder.')
      if (left === 'mark') expect(w.task(task)?.status).to.equal('completed')
    })

  it('leaves the decision to the rule where that says which side is right', () => {
    const { w, task, event } = paired({ conflict: 'a' })
    w.edit('b', event, { description: 'In the back room.' })
    w.tasks.delete('them', task)
    rest(w)
    expect([w.tasks.items.size, w.events.items.size]).to.deep.equal([0, 0])
  })
})
