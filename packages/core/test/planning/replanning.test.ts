import { expect } from 'chai'
import fc from 'fast-check'
import { takenOf, tasksOf } from '../../src/planning/from-cloth.ts'
import { type Change, changesOf, type Planned, plannedOf } from '../../src/planning/replanning.ts'
import type { ClothItem } from '../../src/view/cloth-item.ts'
import { drawnItem } from '../support/drawn-item.ts'

const HOUR = 3_600_000
const NOW = Date.UTC(2026, 5, 15, 8)
const at = (from: number, hours = 1): ClothItem['place'] => ({
  kind: 'timed',
  startMs: NOW + from * HOUR,
  endMs: NOW + (from + hours) * HOUR,
})
const person = { id: 'ines', zone: 'UTC', now: NOW }
const block = (key: string, of: string, place: ClothItem['place'], more: Partial<ClothItem> = {}) =>
  drawnItem(key, place, { kind: 'block', of, ...more })

describe('what is planned and may be moved', () => {
  it('are blocks and plans of theirs that have not begun, and nothing that others decide', () => {
    const items = [
      block('ahead', 't', at(2)),
      drawnItem('a plan', at(3)),
      block('begun', 't', at(-0.5)),
      block('beyond', 't', at(200)),
      block('worked', 't', at(2), { done: true }),
      block('fixed', 't', at(2), { movable: false }),
      block('on its way', 't', at(2), { pending: true }),
      block('of another', 't', at(2), { people: ['tobias'] }),
      drawnItem('of a rule', at(4), { kind: 'tied' }),
      drawnItem('a meeting', at(4), { kind: 'event' }),
      drawnItem('each week', at(4), { recurring: true }),
      drawnItem('a deadline', at(4), { atDeadline: true }),
    ]
    const found = plannedOf(items, person, NOW + 100 * HOUR)
    expect(found.map(p => [p.key, p.task, p.kind])).to.deep.equal([
      ['ahead', 't', 'block'],
      ['a plan', 'a plan', 'plan'],
    ])
  })

  it('leaves what is taken and is wanted again, in neither nor in both', () => {
    const items = [
      drawnItem('t', { kind: 'none' }, { estimate: 120, blocks: { ahead: 60, spent: 0 } }),
      block('b', 't', at(2)),
      drawnItem('planned', at(5), { estimate: 60 }),
    ]
    const planned = plannedOf(items, person, NOW + 100 * HOUR)
    const needs = (p: readonly Planned[]): [string, number][] =>
      tasksOf(items, person, [], p).map(t => [t.id, (t.estimate ?? 30) - t.taken - t.reserved])
    expect(needs([])).to.deep.equal([['t', 60]])
    expect(takenOf(items, person)).to.have.length(2)
    expect(needs(planned)).to.deep.equal([
      ['t', 120],
      ['planned', 60],
    ])
    expect(takenOf(items, person, new Set(planned.map(p => p.key)))).to.deep.equal([])
  })
})

describe('from what is planned to what is drafted', () => {
  const span = fc
    .record({ from: fc.integer({ min: 0, max: 12 }), hours: fc.integer({ min: 1, max: 3 }) })
    .map(({ from, hours }) => ({ fromMs: from * HOUR, toMs: (from + hours) * HOUR }))
  const spans = fc.uniqueArray(span, { maxLength: 5, selector: s => s.fromMs })
  const text = (s: { fromMs: number; toMs: number }): string => `${s.fromMs}–${s.toMs}`

  it('is exactly what is drafted in the end, by as few changes as that takes', () => {
    fc.assert(
      fc.property(spans, spans, fc.boolean(), (drafted, was, hasPlan) => {
        const planned = was.map((s, n): Planned => ({
          key: `k${n}`,
          task: 't',
          kind: hasPlan && n === 0 ? 'plan' : 'block',
          ...s,
        }))
        const changes = changesOf(drafted, planned)
        const of = (what: Change['do']): Change[] => changes.filter(c => c.do === what)
        const after = changes.flatMap(c => (c.do === 'remove' ? [] : [text(c)]))
        expect(after.sort()).to.deep.equal(drafted.map(text).sort())
        const touched = changes.flatMap(c => ('planned' in c ? [c.planned.key] : []))
        expect(touched.sort(), 'each is spoken of once').to.deep.equal(planned.map(p => p.key).sort())
        const same = planned.filter(p => drafted.some(d => text(d) === text(p)))
        expect(of('keep')).to.have.length(same.length)
        // What could be moved is not made anew.
        const [adds, removes] = [of('add'), of('remove')]
        const isStuck = removes.every(c => 'planned' in c && c.planned.kind === 'plan')
        if (adds.length > 0 && removes.length > 0) expect(isStuck, JSON.stringify(changes)).to.equal(true)
        for (const c of of('move'))
          if (c.do === 'move' && c.planned.kind === 'plan')
            expect(c.toMs - c.fromMs, 'no length is written').to.equal(c.planned.toMs - c.planned.fromMs)
      }),
    )
  })
})
