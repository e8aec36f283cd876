import { expect } from 'chai'
import { defaultSettings, type RuleSettings, zoned } from '../src/index.ts'
import { World, ZONE } from './model/world.ts'
import { withoutPrivate } from './support/private-matters.ts'

/** A rule is edited while its pairs live: what it asks for from then on, and what it does not. */

const WED = '2026-11-25T10:00:00'
const fields = (of: Partial<RuleSettings['fields']>): Pick<RuleSettings, 'fields'> => ({
  fields: { ...defaultSettings.fields, ...of },
})

/** A task and its event, at rest under a rule that says this. */
function pair(settings: Partial<RuleSettings>, repeats = false): { w: World; task: string; event: string } {
  const w = new World(settings)
  const task = w.addTask('Boiler valve', WED, 'a', repeats)
  w.pass()
  w.pass()
  w.now += 60_000
  return { w, task, event: w.eventOf(task)?.uid ?? '' }
}
function rest(w: World): void {
  for (let i = 0; i < 4; i++) w.pass()
  expect(w.pass(), 'it settles').to.equal(0)
}
const titles = (w: World, task: string, event: string) => [w.task(task)?.summary, w.event(event)?.summary]

describe('an edited rule', () => {
  it('puts its words round a title that both sides had edited meanwhile', () => {
    const { w, task, event } = pair({ title: '{title}', conflict: 'b' })
    w.edit('a', task, { summary: 'Of the list' })
    w.edit('b', event, { summary: 'Of the calendar' })
    w.editRule(0, { title: '{title} (bench)' })
    rest(w)
    expect(titles(w, task, event)).to.deep.equal(['Of the calendar', 'Of the calendar (bench)'])
  })

  it('keeps a title that somebody gave an event while its words were on their way', () => {
    const { w, task, event } = pair({ title: '{title}' })
    w.editRule(0, { title: '{title} (bench)' })
    w.pass({ fault: () => 'never-arrived' })
    w.edit('b', event, { summary: 'Of the calendar' })
    rest(w)
    expect(titles(w, task, event)).to.deep.equal(['Of the calendar', 'Of the calendar'])
    w.edit('a', task, { summary: 'Of the list' })
    rest(w)
    expect(titles(w, task, event)).to.deep.equal(['Of the list', 'Of the list (bench)'])
  })

  it('puts an edit into its words that was made in those of before, while they were on their way', () => {
    const { w, task, event } = pair({ title: '{title} (bench)', conflict: 'b' })
    w.editRule(0, { title: 'Bench: {title}' })
    w.edit('a', task, { summary: 'Of the list' })
    w.pass({ fault: () => 'never-arrived' })
    w.edit('b', event, { summary: 'Of the calendar (bench)' })
    rest(w)
    expect(titles(w, task, event)).to.deep.equal(['Of the calendar', 'Bench: Of the calendar'])
  })

  it('writes nothing where a field comes from, whatever words it has for it', () => {
    const { w, task, event } = pair({})
    w.editRule(0, { title: '{title} (bench)', ...fields({ title: 'b-to-a', completion: 'b-to-a' }) })
    w.edit('b', event, { summary: '✓ Valve' })
    w.edit('a', task, { summary: 'Of the list' })
    rest(w)
    expect(titles(w, task, event)).to.deep.equal(['Valve', '✓ Valve'])
    expect([w.task(task)?.status, w.event(event)?.transparency]).to.deep.equal(['completed', 'opaque'])
  })

  it('carries what it carries once only to what is made from then on', () => {
    const { w, task, event } = pair(fields({ title: 'off' }))
    w.edit('a', task, { summary: 'Of the list' })
    w.editRule(0, fields({ title: 'once' }))
    rest(w)
    expect(w.event(event)?.summary).to.not.equal('Of the list')
    const later = w.addTask('Seed trays', WED)
    rest(w)
    expect(w.eventOf(later)?.summary).to.equal('Seed trays')
  })

  it('leaves what stood for a round that is over where it was, if it carries dates only from now on', () => {
    const { w, task, event } = pair(fields({ time: 'off' }), true)
    const stood = w.event(event)?.time
    w.edit('a', task, { status: 'completed' })
    w.editRule(0, fields({ time: 'both' }))
    rest(w)
    expect(w.event(event)).to.deep.include({ summary: '✓ Boiler valve', time: stood })
    expect(w.eventOf(task)?.time.anchor).to.deep.equal(zoned('2026-12-02T10:00:00', ZONE))
  })

  it('says what it says now of a pair that was out of it in the meantime', () => {
    const { w, task, event } = pair({ filter: withoutPrivate, left: { a: 'release', b: 'release' } })
    w.edit('a', task, { description: 'private' })
    rest(w)
    w.editRule(0, { title: '{title} (bench)' })
    rest(w)
    expect(titles(w, task, event)).to.deep.equal(['Boiler valve', 'Boiler valve'])
    w.edit('a', task, { description: '' })
    rest(w)
    expect(titles(w, task, event)).to.deep.equal(['Boiler valve', 'Boiler valve (bench)'])
    w.edit('b', event, { summary: 'Valve (bench)' })
    rest(w)
    expect(titles(w, task, event)).to.deep.equal(['Valve', 'Valve (bench)'])
  })
})
