import { expect } from 'chai'
import { adviceFor, onDate, type RuleSettings } from '../src/index.ts'
import { inputFor } from './model/planning.ts'
import { World } from './model/world.ts'

/** A rule that would make nothing says why, and offers the one step that changes it. */
describe('a rule in which nothing takes part', () => {
  const advice = (settings: Partial<RuleSettings>, prepare: (w: World) => void) => {
    const w = new World(settings)
    prepare(w)
    w.observeAll()
    return adviceFor(w.rule, inputFor(w, w.rule))
  }
  const due = (w: World, title: string): void =>
    w.edit('a', w.addTask(title, null), { due: onDate('2026-11-27') })

  it('names the other date, and the step takes it', () => {
    const found = advice({}, w => {
      due(w, 'Order seeds')
      due(w, 'Wash pots')
      w.addTask('Sweep', null)
    })
    expect(found).to.deep.equal({
      words: 'None of 3 open tasks has a planned date; 2 have a deadline.',
      step: { label: 'Use the deadline', set: { date: 'due' } },
    })
    expect(
      advice({ date: 'due' }, w => void w.addTask('Sweep', '2026-11-25T09:00:00'))?.step?.set,
    ).to.deep.equal({
      date: 'start',
    })
  })

  it('names days without an hour, a filter that nothing passes, and a list without open tasks', () => {
    const day = (w: World): void => w.edit('a', w.addTask('Sweep', null), { start: onDate('2026-11-27') })
    expect(advice({}, day)).to.deep.equal({
      words: 'The only open task has no hour; 1 has a day.',
      step: { label: 'Make all-day events', set: { noHour: 'all-day' } },
    })
    const filter: RuleSettings['filter'] = { a: [{ field: 'words', of: ['glass'], without: false }], b: [] }
    expect(advice({ filter }, day)?.step?.set).to.deep.equal({ filter: { a: [], b: [] } })
    expect(advice({}, () => undefined)).to.deep.equal({
      words: 'There is no open task on this side yet.',
      step: null,
    })
  })

  it('says nothing where something takes part', () => {
    expect(advice({}, w => void w.addTask('Sweep', '2026-11-25T09:00:00'))).to.equal(null)
    expect(advice({ made: { a: 'nothing', b: 'new' } }, w => due(w, 'Sweep'))).to.equal(null)
  })
})
