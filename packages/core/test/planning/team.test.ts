import { expect } from 'chai'
import fc from 'fast-check'
import type { TaskToPlan, Wait } from '../../src/planning/demand.ts'
import { type Asked, Plan } from '../../src/planning/plan.ts'
import { type AskedOf, TeamSearch, type TeamTold } from '../../src/planning/team.ts'
import { addDays, dayAt } from '../../src/time/when.ts'
import { at, HOURS, MIN, MONDAY, task, usual, ZONE } from './asked.ts'

const told = (all: readonly AskedOf[], seed = 1): TeamTold => {
  const search = new TeamSearch(all, seed)
  while (!search.isDone) search.step(40)
  return search.told()
}
/** As while a piece is dragged. */
const soon = (all: readonly AskedOf[]): TeamTold => {
  const search = new TeamSearch(all, 1)
  search.finish(10)
  return search.told()
}
const of = (person: string, tasks: TaskToPlan[], more: Partial<Asked> = {}): AskedOf => ({
  person,
  asked: { ...usual, ...more, tasks },
})
const wait = (id: string, gap = 0): Wait => ({ id, gap, endsMs: null })
const endOf = (t: TeamTold, id: string): number =>
  Math.max(...t.pieces.filter(p => p.id === id).map(p => p.toMs))
const startOf = (t: TeamTold, id: string): number =>
  Math.min(...t.pieces.filter(p => p.id === id).map(p => p.fromMs))
const minutesOf = (t: TeamTold, id: string): number =>
  t.pieces.reduce((sum, p) => sum + (p.id === id ? (p.toMs - p.fromMs) / MIN : 0), 0)

describe('a draft for several people', () => {
  it('lets each wait for what another does first, wherever it is in the chain, with its gap', () => {
    const t = told([
      of('a', [task('a1', { waitsFor: [wait('b1', 30)] }), task('a2', { waitsFor: [wait('b2')] })]),
      of('b', [task('b1'), task('b2', { waitsFor: [wait('a1')] })]),
    ])
    expect(t.left).to.deep.equal([])
    expect(t.notPlaced).to.deep.equal([])
    expect(startOf(t, 'a1')).to.be.at.least(endOf(t, 'b1') + 30 * MIN)
    expect(startOf(t, 'b2')).to.be.at.least(endOf(t, 'a1'))
    expect(startOf(t, 'a2')).to.be.at.least(endOf(t, 'b2'))
    expect(new Set(t.pieces.map(p => `${p.person} ${p.id}`))).to.have.lengthOf(4)
  })

  it('says what waits where another has no place for what is before it', () => {
    const never = { ...HOURS, minutes: [0, 0, 0, 0, 0, 0, 0] }
    const t = told([
      of('a', [task('a1', { waitsFor: [wait('b1')] })]),
      of('b', [task('b1')], { hours: never }),
    ])
    expect(t.pieces).to.deep.equal([])
    expect(t.left).to.deep.equal([{ id: 'a1', because: 'waits', for: 'b1' }])
    expect(t.notPlaced.map(n => [n.person, n.id])).to.deep.equal([['b', 'b1']])
  })

  it('has what several may do done by whoever has room, and by nobody else', () => {
    const full = [{ fromMs: at(MONDAY, '09:00'), toMs: at('2026-06-19', '17:00'), isWork: true }]
    const both = (more: Partial<Asked>) =>
      told([of('a', [task('shared'), task('a1')], more), of('b', [task('shared'), task('b1')])])
    expect(both({}).pieces.filter(p => p.id === 'shared')).to.have.length(1)
    const t = both({ taken: full })
    expect(t.pieces.find(p => p.id === 'shared')?.person).to.equal('b')
    expect(t.notPlaced.map(n => n.id)).to.deep.equal(['a1'])
  })

  it('asks the next one where the first has room, and none of it admits the task', () => {
    // Plenty of time, and none in one piece that is long enough.
    const holes = Array.from({ length: 5 }, (_, day) =>
      Array.from({ length: 16 }, (_, n) => {
        const fromMs = at(addDays(MONDAY, day), '09:00') + (n * 30 + 25) * MIN
        return { fromMs, toMs: fromMs + 5 * MIN, isWork: false }
      }),
    ).flat()
    const short = Array.from({ length: 6 }, (_, n) => task(`b${n}`, { estimate: 300 }))
    const t = soon([
      of('a', [task('shared', { estimate: 60 })], { taken: holes }),
      of('b', [...short, task('shared')]),
    ])
    expect(t.pieces.find(p => p.id === 'shared')?.person).to.equal('b')
    expect(t.notPlaced.some(n => n.id === 'shared')).to.equal(false)
  })

  it('leaves what is pinned with whoever it is pinned with', () => {
    const pinned = [{ id: 'shared', regular: null, fromMs: at(MONDAY, '10:00'), toMs: at(MONDAY, '11:00') }]
    const busy = Array.from({ length: 8 }, (_, n) => task(`a${n}`, { estimate: 240 }))
    const t = soon([of('a', [...busy, task('shared')], { pinned }), of('b', [task('shared')])])
    const pieces = t.pieces.filter(p => p.id === 'shared')
    expect(pieces.map(p => [p.person, p.isPinned])).to.deep.equal([['a', true]])
  })

  it('is for one person what a plan of theirs is', () => {
    const tasks = [
      task('x'),
      task('y', { estimate: 200, waitsFor: [wait('x')] }),
      task('z', { estimate: null }),
    ]
    const plan = new Plan({ ...usual, tasks })
    const search = plan.search(3)
    search.step(search.rounds)
    const alone = plan.told(search.draft())
    const { pieces, notPlaced, ...rest } = told([of('a', tasks)], 3)
    expect(pieces).to.deep.equal(alone.pieces.map(p => ({ ...p, person: 'a' })))
    expect(notPlaced).to.deep.equal(alone.notPlaced)
    const { pieces: _, notPlaced: __, ...aloneRest } = alone
    expect(rest).to.deep.equal(aloneRest)
  })

  it('holds for any team: one doer, no one in two places, nothing before what it waits for, no minute lost', () => {
    const arbitraryTask = fc.record({
      who: fc.subarray(['a', 'b', 'c'], { minLength: 1 }),
      estimate: fc.option(fc.integer({ min: 5, max: 300 })),
      pressure: fc.integer({ min: 0, max: 100 }),
      waits: fc.array(fc.record({ on: fc.nat(11), gap: fc.constantFrom(0, 15, 60) }), { maxLength: 2 }),
    })
    fc.assert(
      fc.property(
        fc.array(arbitraryTask, { minLength: 1, maxLength: 12 }),
        fc.array(fc.record({ who: fc.constantFrom('a', 'b', 'c'), day: fc.nat(4), from: fc.nat(400) }), {
          maxLength: 8,
        }),
        (given, meetings) => {
          const all = ['a', 'b', 'c'].map(person => {
            const own = given.flatMap((g, n) =>
              g.who.includes(person)
                ? [
                    task(`t${n}`, {
                      estimate: g.estimate,
                      pressure: g.pressure,
                      waitsFor: g.waits.flatMap(w => (w.on < given.length ? [wait(`t${w.on}`, w.gap)] : [])),
                    }),
                  ]
                : [],
            )
            const taken = meetings
              .filter(m => m.who === person)
              .map(m => {
                const fromMs = at(addDays(MONDAY, m.day), '09:00') + m.from * MIN
                return { fromMs, toMs: fromMs + 60 * MIN, isWork: true }
              })
            return of(person, own, { taken })
          })
          const t = soon(all)
          expect(soon(all)).to.deep.equal(t)
          for (const [n, g] of given.entries()) {
            const id = `t${n}`
            const doers = new Set(t.pieces.filter(p => p.id === id).map(p => p.person))
            expect(doers.size).to.be.at.most(1)
            for (const person of doers) expect(g.who).to.include(person)
            const lacks = t.notPlaced.filter(x => x.id === id)
            expect(lacks.length).to.be.at.most(1)
            const left = t.left.some(l => l.id === id)
            if (!left)
              expect(minutesOf(t, id) + (lacks[0]?.minutes ?? 0)).to.equal(
                Math.ceil((g.estimate ?? 30) / 5) * 5,
              )
            if (doers.size === 0) continue
            for (const w of g.waits) {
              if (w.on >= given.length) continue
              const on = `t${w.on}`
              expect(t.notPlaced.some(x => x.id === on)).to.equal(false)
              expect(startOf(t, id)).to.be.at.least(endOf(t, on) + w.gap * MIN)
            }
          }
          for (const [n, p] of t.pieces.entries()) {
            const date = dayAt(p.fromMs, ZONE)
            expect(p.fromMs >= at(date, '09:00') && p.toMs <= at(date, '17:00')).to.equal(true)
            const meets = (o: { fromMs: number; toMs: number }): boolean =>
              o.fromMs < p.toMs && p.fromMs < o.toMs
            expect(t.pieces.slice(n + 1).some(o => o.person === p.person && meets(o))).to.equal(false)
            expect(all.find(x => x.person === p.person)?.asked.taken.some(meets)).to.equal(false)
          }
        },
      ),
      { numRuns: 60 },
    )
  })
})

describe('what waits for something that is pinned', () => {
  it('comes after all of it, whether all or a part of it is', () => {
    for (const estimate of [60, 120]) {
      const pinned = [
        { id: 'first', regular: null, fromMs: at('2026-06-16', '15:00'), toMs: at('2026-06-16', '16:00') },
      ]
      const tasks = [task('first', { estimate }), task('then', { waitsFor: [wait('first')] })]
      const t = told([of('a', tasks, { pinned })])
      expect(t.left).to.deep.equal([])
      expect(startOf(t, 'then')).to.be.at.least(endOf(t, 'first'))
    }
  })
})
