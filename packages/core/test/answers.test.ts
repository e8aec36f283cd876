import { expect } from 'chai'
import { plan, type Answer } from '../src/index.ts'
import { inputFor } from './model/planning.ts'
import { plainService } from './model/service.ts'
import { World } from './model/world.ts'

/** Whatever is held for a person, each of the answers offered writes, and the two agree from then on. */
describe('an answer of a person', () => {
  const WED = '2026-11-25T09:00:00'
  const LONG = 'A title that is longer than twenty characters'
  const CASES: { of: string; settings: object; first?: string; a?: string; b?: string; max?: number }[] = [
    { of: 'both sides', settings: { conflict: 'ask' }, a: 'Valve A', b: 'Valve B' },
    { of: 'both sides, one emptied', settings: { conflict: 'ask' }, a: 'Valve A', b: '' },
    ...['Bench: {title}', '{title} (bench)', 'Rota'].flatMap(title => [
      { of: `both sides under “${title}”`, settings: { title, conflict: 'ask' }, a: 'Valve A', b: 'Valve B' },
      { of: `the words of “${title}” alone`, settings: { title }, b: 'Valve B' },
      { of: `the title under “${title}” and its words`, settings: { title }, a: 'Valve A', b: 'Valve B' },
    ]),
    { of: 'the beginning of a longer title', settings: {}, first: LONG, b: 'A title cut', max: 20 },
  ]
  for (const { of, settings, first, a, b, max } of CASES)
    for (const take of ['a', 'b', 'own words'] as const)
      it(`settles an edit of ${of} by ${take}`, () => {
        const services = {
          a: { ...plainService('task'), titleMax: null },
          b: { ...plainService('event'), titleMax: max ?? null },
        }
        const w = new World(settings, null, { services })
        const task = w.addTask(first ?? 'Boiler valve', WED)
        for (let n = 0; n < 2; n++) w.pass()
        const event = w.eventOf(task)?.uid ?? ''
        if (a !== undefined) w.edit('a', task, { summary: a })
        if (b !== undefined) w.edit('b', event, { summary: b })
        w.observeAll()
        const [d] = plan(inputFor(w, w.rule)).filter(p => p.held.length > 0)
        const conflict = d?.held[0]?.conflict
        if (!d?.tie || !conflict) throw new Error('nothing is held')
        const merged = typeof conflict.a === 'object' ? { ...conflict.a, title: 'Merged' } : 'Merged'
        const answer: Answer = { ...conflict, take: take === 'own words' ? { value: merged } : take }
        w.answers.set(d.tie.id, { title: answer })
        w.pass()
        expect(w.overridden.map(o => o.field)).to.deep.equal(w.overridden.map(() => 'title'))
        w.answers.clear()
        for (let n = 0; n < 3; n++) w.pass()
        w.observeAll()
        const after = plan(inputFor(w, w.rule))
        expect([after.flatMap(p => p.held), after.flatMap(p => p.writes)]).to.deep.equal([[], []])
        const says = [w.task(task)?.summary, w.event(event)?.summary].join(' | ')
        const wanted =
          take === 'own words' ? 'Merged' : take === 'a' ? (a ?? first ?? 'Boiler valve') : (b ?? '')
        expect(says).to.contain(wanted)
      })
})
