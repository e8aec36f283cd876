import { expect } from 'chai'
import fc from 'fast-check'
import { brake, type BrakeTerms, type Decision, lossOf, plan } from '../src/index.ts'
import { lossesInWords } from '../src/view/index.ts'
import { inputFor } from './model/planning.ts'
import { World } from './model/world.ts'

const termsOf = (w: World, recent: Record<string, number> = {}): BrakeTerms => ({
  sizeOf: id => [...w.mirrors.values()].filter(m => m.collectionId === id && m.presence === 'present').length,
  recent: id => recent[id] ?? 0,
  tiedOf: () => 0,
  approved: new Set(),
  declined: new Set(),
  collectionOf: write =>
    write.op === 'create' ? write.collectionId : (w.mirrors.get(write.mirrorId)?.collectionId ?? ''),
  collectionOfMirror: id => w.mirrors.get(id)?.collectionId ?? '',
})
const planned = (w: World): Decision[] => {
  w.observeAll()
  return plan(inputFor(w, w.rule))
}

/** Twenty pairs, of which some are done, at rest. */
function twenty(settings: object, done: number, repeats = false): World {
  const w = new World(settings)
  for (let n = 0; n < 20; n++)
    w.addTask(`Bed ${n}`, `2026-11-${String(25 + (n % 5))}T1${n % 8}:00:00`, 'a', repeats)
  w.pass()
  w.pass()
  const ids = [...w.tasks.items.keys()]
  for (const id of ids.slice(0, done)) w.edit('a', id, { status: 'completed' })
  for (let n = 0; n < 4; n++) w.pass()
  return w
}
const removeEvents = (w: World, count: number): void => {
  for (const id of [...w.events.items.keys()].slice(0, count)) w.events.delete('them', id)
}

describe('the brake', () => {
  const POLICIES = ['deleted', 'left', 'undated', 'cancelled', 'completed', 'status'] as const
  for (const policy of POLICIES)
    for (const [what, done, repeats] of [
      ['open', 0, false],
      ['done', 20, false],
      ['repeating', 0, true],
    ] as const)
      it(`holds the deletion of many events of ${what} tasks, where that is “${policy}”`, () => {
        const w = twenty(
          { deleted: { a: 'deleted', b: policy }, deletedStatus: { a: null, b: 'parked' } },
          done,
          repeats,
        )
        removeEvents(w, 12)
        const decisions = planned(w)
        const { go, stopped } = brake(decisions, termsOf(w))
        expect(stopped).to.have.length(12)
        expect(go.filter(d => lossOf(d))).to.deep.equal([])
        // Three of so few may go in a day.
        const few = twenty({ deleted: { a: 'deleted', b: policy } }, done, repeats)
        removeEvents(few, 3)
        expect(brake(planned(few), termsOf(few)).stopped).to.deep.equal([])
      })

  /** Of so few, three may go in a day: of more, nothing is done to any of the tasks whose events went. */
  const holdsMany = (braked: typeof brake) =>
    fc.property(
      fc.constantFrom(...POLICIES),
      fc.integer({ min: 0, max: 20 }),
      fc.integer({ min: 0, max: 3 }),
      fc.boolean(),
      (policy, gone, done, repeats) => {
        const w = twenty(
          { deleted: { a: 'deleted', b: policy }, deletedStatus: { a: null, b: 'parked' } },
          repeats ? 0 : done,
          repeats,
        )
        removeEvents(w, gone)
        const decisions = planned(w)
        const isAbout = (d: Decision): boolean => w.mirrors.get(d.b ?? '')?.presence === 'gone'
        const { go, stopped } = braked(decisions, termsOf(w))
        expect(decisions.filter(isAbout)).to.have.length(gone)
        expect(go.filter(isAbout)).to.have.length(gone > 3 ? 0 : gone)
        expect(stopped).to.have.length(gone > 3 ? gone : 0)
      },
    )
  it('holds all of what goes at once, or nothing, whatever follows from it', () => {
    fc.assert(holdsMany(brake), { numRuns: 40 })
  })
  it('is guarded by that: a brake that does not count what is closed is found', () => {
    const closes = (d: Decision): boolean =>
      ['completed', 'cancelled', 'restated'].includes(lossOf(d)?.loss ?? '')
    const blind: typeof brake = (decisions, terms) =>
      brake(
        decisions.map(d => (closes(d) ? { ...d, reason: 'completed' } : d)),
        terms,
      )
    expect(() => fc.assert(holdsMany(blind), { numRuns: 2000 })).to.throw(/Property failed/)
  })

  it('counts what went before, and lets go what a person said yes to, and that alone', () => {
    const w = twenty({ deleted: { a: 'deleted', b: 'left' } }, 0)
    removeEvents(w, 2)
    const decisions = planned(w)
    expect(brake(decisions, termsOf(w, { b: 3 })).stopped).to.have.length(2)
    const [yes] = decisions.filter(d => lossOf(d))
    const terms = { ...termsOf(w, { b: 3 }), approved: new Set([yes?.tie?.id ?? '']) }
    const { go, stopped } = brake(decisions, terms)
    expect(go).to.include(yes)
    expect(stopped).to.have.length(1)
  })

  it('counts by the size that a collection had, not by what is left of it', () => {
    const w = twenty({ deleted: { a: 'deleted', b: 'left' } }, 0)
    removeEvents(w, 12)
    const forty = { ...termsOf(w), sizeOf: (id: string) => (id === 'b' ? 108 : 20) }
    // Twelve of a hundred and twenty: a tenth.
    expect(brake(planned(w), forty).stopped).to.deep.equal([])
  })

  it('does not count what nobody loses: tasks without an hour, and work that is done', () => {
    const w = twenty({ completed: 'remove' }, 0)
    for (const id of w.tasks.items.keys()) w.edit('a', id, { status: 'completed' })
    const decisions = planned(w)
    expect(decisions.filter(d => d.writes.some(x => x.op === 'delete'))).to.have.length(20)
    expect(brake(decisions, termsOf(w)).stopped).to.deep.equal([])
  })

  it('says truly what would happen', () => {
    const said = (policy: string, done = 0): string => {
      const w = twenty({ deleted: { a: 'deleted', b: policy } }, done)
      removeEvents(w, 8)
      const { stopped } = brake(planned(w), termsOf(w))
      return lossesInWords(
        stopped.map(d => lossOf(d)?.loss ?? ''),
        'task',
      )
    }
    expect(said('undated')).to.equal('8 tasks would lose their date')
    expect(said('completed')).to.equal('8 tasks would be completed')
    expect(said('deleted')).to.equal('8 tasks would be deleted')
    expect(said('left')).to.equal('8 tasks would stay, on their own from then on')
    expect(lossesInWords(['undated', 'completed', 'undated'], 'task')).to.equal(
      '2 tasks would lose their date, 1 would be completed',
    )
  })

  /** A list in step, in which `count` events then appear at one look. */
  function filled(count: number, settings: object = {}): World {
    const w = new World({ made: { a: 'all', b: 'new' }, ...settings })
    w.addTask('Prune', '2026-11-25T10:00:00')
    for (let n = 0; n < 3; n++) w.pass()
    for (let n = 0; n < count; n++) w.addEvent(`Import ${n}`, `2026-11-2${n % 6}T1${n % 8}:00:00`)
    return w
  }

  it('asks about counterparts for more than twenty new items at one look, and makes those that are wanted', () => {
    const w = filled(30)
    const decisions = planned(w)
    const { go, stopped } = brake(decisions, termsOf(w))
    expect([go.filter(d => d.effect === 'make'), stopped.length]).to.deep.equal([[], 30])
    const [yes, no] = [stopped.slice(0, 10), stopped.slice(10)].map(
      some => new Set(some.map(d => d.tie?.id ?? '')),
    )
    const answered = brake(decisions, {
      ...termsOf(w),
      approved: yes ?? new Set(),
      declined: no ?? new Set(),
    })
    expect(answered.go.filter(d => d.effect === 'make')).to.have.length(10)
    expect([answered.stopped, answered.declined.length]).to.deep.equal([[], 20])
  })

  it('lets twenty go, and counts those of the same look that were tied a moment ago', () => {
    const w = filled(20)
    const decisions = planned(w)
    expect(brake(decisions, termsOf(w)).stopped).to.deep.equal([])
    expect(brake(decisions, { ...termsOf(w), tiedOf: () => 1 }).stopped).to.have.length(20)
  })

  it('counts the dates of a series as one', () => {
    const w = filled(30)
    const { stopped } = brake(planned(w), { ...termsOf(w), partOf: () => 'series' })
    expect(stopped).to.deep.equal([])
  })
})
