import { expect } from 'chai'
import { possibleMatches, zoned } from '../src/index.ts'
import { World, ZONE } from './model/world.ts'

/** What a person says is the same work, or is not. */
const WED = '2026-11-25T10:00:00'
const THU = '2026-11-26T14:30:00'

describe('tied and untied by hand', () => {
  /** An undated task and an event of the same title, which stood there before. */
  function standing(): { w: World; pair: string } {
    const w = new World({ made: { a: 'all', b: 'nothing' } })
    const task = w.addTask('Wash the glass', null)
    const event = w.addEvent('wash  the glass', WED)
    w.observeAll()
    return { w, pair: `${w.mirrorId('a', task)} ${w.mirrorId('b', event)}` }
  }
  const possible = (w: World): string[] => {
    const of = (name: string) => [...w.mirrors.values()].filter(m => m.collectionId === name)
    return possibleMatches(w.rule, of('a'), of('b')).map(({ a, b }) => `${a.id} ${b.id}`)
  }

  it('a title alone ties nothing; it is proposed, unless there are two of it or a person said no', () => {
    const { w, pair } = standing()
    expect(w.plan()).to.deep.equal([])
    expect(possible(w)).to.deep.equal([pair])
    w.editRule(0, { declined: [pair] })
    expect(possible(w)).to.deep.equal([])
    w.editRule(0, { declined: [] })
    w.addTask('Wash the glass', null)
    w.observeAll()
    expect(possible(w)).to.deep.equal([])
  })

  it('what a person pairs is tied, and the task has the time of the event', () => {
    const { w, pair } = standing()
    w.editRule(0, { paired: [pair] })
    expect(w.plan().map(d => `${d.effect} ${d.reason}`)).to.deep.equal(['match paired'])
    w.pass()
    w.pass()
    expect(w.task('t1')?.start).to.deep.equal(zoned(WED, ZONE))
    expect(w.events.items.size).to.equal(1)
  })

  it('what a person parts is never matched again, however alike the two become', () => {
    const { w, pair } = standing()
    w.editRule(0, { paired: [pair] })
    w.pass()
    w.pass()
    for (const [id, tie] of w.ties) w.ties.set(id, { ...tie, released: 'by-hand' })
    w.pass()
    expect(w.activeTies()).to.deep.equal([])
    w.edit('a', 't1', { start: zoned(THU, ZONE) })
    w.edit('b', 'e2', { time: { anchor: zoned(THU, ZONE), minutes: 30 } })
    w.observeAll()
    expect(w.plan().filter(d => d.effect === 'match')).to.deep.equal([])
  })
})
