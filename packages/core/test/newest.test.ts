import { expect } from 'chai'
import type { ItemPatch, RuleSettings } from '../src/index.ts'
import { World } from './model/world.ts'

/**
 * Newest compares field by field, also where a service has only one property for two fields: an event's title and its
 * mark are both in its summary, the notes and the list of parts both in its description.
 */

type Edit = ['a' | 'b', ItemPatch]

/** A task and its event, at rest; then each edit, with a look between it and the next, and nobody planning. */
function afterEdits(edits: Edit[], settings: Partial<RuleSettings> = {}, notes = ''): World {
  const w = new World(settings)
  const task = w.addTask('Boiler valve', '2026-11-25T10:00:00')
  if (notes) w.edit('a', task, { description: notes })
  w.pass()
  w.pass()
  const event = w.eventOf(task)?.uid ?? ''
  for (const [side, patch] of edits) {
    w.now += 5000
    w.edit(side, side === 'a' ? task : event, patch)
    w.now += 1000
    w.observeAll()
  }
  return w
}
const lost = (w: World): unknown[] =>
  w.plan().flatMap(d => d.overridden.map(o => [o.field, o.side, o.value, o.because]))

describe('which of two edits is the newer, by field', () => {
  it('a mark put before a title later is no edit of the title', () => {
    const w = afterEdits([
      ['b', { summary: 'Of the calendar' }],
      ['a', { summary: 'Of the list' }],
      ['b', { summary: '✓ Of the calendar' }],
    ])
    expect(lost(w)).to.deep.equal([['title', 'b', 'Of the calendar', 'newer']])
    w.pass()
    expect(w.events.items.values().next().value?.item.summary).to.equal('✓ Of the list')
    expect(w.tasks.items.values().next().value?.item.status).to.equal('completed')
  })

  it('a title edited later is no edit of the mark', () => {
    const w = afterEdits([
      ['b', { summary: '✓ Boiler valve' }],
      ['a', { status: 'cancelled' }],
      ['b', { summary: '✓ Old boiler valve' }],
    ])
    expect(lost(w).map(o => (o as unknown[]).slice(0, 2))).to.deep.equal([['completion', 'b']])
  })

  it('a title that came back to what it was has been so since it came back', () => {
    const w = afterEdits([
      ['b', { summary: 'Of the calendar' }],
      ['b', { summary: 'Something else' }],
      ['a', { summary: 'Of the list' }],
      ['b', { summary: 'Of the calendar' }],
    ])
    expect(lost(w)).to.deep.equal([['title', 'a', 'Of the list', 'newer']])
  })

  it('a mark put on and off more often than is kept leaves it open which was first: the fallback counts', () => {
    const marks = Array.from({ length: 9 }, (_, n): Edit => [
      'b',
      { summary: n % 2 ? 'Of the calendar' : '✓ Of the calendar' },
    ])
    const edits: Edit[] = [['b', { summary: 'Of the calendar' }], ['a', { summary: 'Of the list' }], ...marks]
    for (const fallback of ['a', 'b'] as const)
      expect(lost(afterEdits(edits, { fallback }))).to.deep.include([
        'title',
        fallback === 'a' ? 'b' : 'a',
        fallback === 'a' ? 'Of the calendar' : 'Of the list',
        'fallback',
      ])
    // What is kept for it does not grow.
    const [mirror] = [...afterEdits(edits).mirrors.values()].filter(m => m.id.startsWith('b'))
    expect(mirror?.seen.summary?.before).to.have.length(4)
  })

  it('a part ticked in the notes is no edit of the notes', () => {
    const list = (tick: string): string => `By the ladder\n\nParts:\n${tick} Order the seal`
    const w = afterEdits([
      ['b', { description: list('☐') }],
      ['a', { description: 'By the stairs' }],
      ['b', { description: list('☑') }],
    ])
    expect(lost(w)).to.deep.equal([['notes', 'b', 'By the ladder', 'newer']])
  })

  it('a category that a rule writes into the title is no edit of the title', () => {
    const w = afterEdits(
      [
        ['a', { summary: 'Of the list' }],
        ['b', { summary: 'Of the calendar []' }],
        ['a', { categories: ['Autumn'] }],
      ],
      { title: '{title} [{category}]' },
    )
    expect(lost(w).map(o => (o as unknown[]).slice(0, 2))).to.deep.equal([['title', 'a']])
  })
})
