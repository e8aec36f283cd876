import { expect } from 'chai'
import fc from 'fast-check'
import { zoned } from '../src/index.ts'
import { BUGS } from './model/bugs.ts'
import { act, live } from './model/history.ts'
import { tally } from './model/living.ts'
import { history, HOURS, settings, shape, type Step, step } from './model/steps.ts'
import { plainService } from './model/service.ts'
import { World, ZONE } from './model/world.ts'

/** Random services, rules, histories and faults; afterwards SYNC.md §4 must hold. */

/** Always the same histories in a test run; the long run, and whoever asks for more, gets new ones. */
const given = process.env.MODEL_SEED ?? (process.env.MODEL_RUNS ? null : '2511')
const SEED = given === null ? null : Number(given)
const RUNS = Number(process.env.MODEL_RUNS ?? 3000)

describe('two-way sync, by random histories', () => {
  it('settles, agrees, loses nothing and doubles nothing, whatever was edited and whatever failed', function () {
    this.timeout(0)
    const found = fc.check(
      fc.property(history, settings, shape, (steps, of, where) => live(steps, of, where, null)),
      { numRuns: RUNS, ...(SEED !== null && { seed: SEED }) },
    )
    console.log(`    model, seed ${found.seed}: ${JSON.stringify(tally)}`)
    if (found.failed) throw new Error(`${String(found.errorInstance)}\n${fc.defaultReportMessage(found)}`)
  })

  const caught: string[] = []
  for (const bug of BUGS)
    it(`would notice a server that ${bug}`, function () {
      this.timeout(60_000)
      const found = fc.check(
        fc.property(history, settings, shape, (steps, of, where) => live(steps, of, where, bug)),
        // Always the same histories: whether a bug is caught is not left to luck.
        { numRuns: 2000, endOnFailure: true, seed: 48 },
      )
      caught.push(`${found.numRuns} (${bug})`)
      expect(found.failed, 'within 2,000 histories').to.equal(true)
    })
  after(() => console.log(`    planted bugs, by the history that caught them: ${caught.join(', ')}`))

  it('gives the same result in any order of independent edits', () => {
    fc.assert(
      fc.property(fc.shuffledSubarray([0, 1, 2, 3, 4], { minLength: 5 }), order => {
        const world = new World()
        const task = world.addTask('Gutter survey', HOURS[0] ?? null)
        const other = world.addTask('Print route cards', HOURS[1] ?? null)
        world.pass()
        world.pass()
        const eventId = world.eventOf(task)?.uid ?? ''
        const edits = [
          () => world.edit('a', task, { summary: 'Survey gutters' }),
          () => world.edit('b', eventId, { time: { anchor: zoned(HOURS[2] ?? '', ZONE), minutes: 60 } }),
          () => world.edit('a', task, { status: 'completed' }),
          () => world.edit('a', other, { description: 'A3, both sides' }),
          () => world.pass(),
        ]
        for (const i of order) edits[i]?.()
        world.pass()
        world.pass()
        expect(world.task(task)).to.include({ summary: 'Survey gutters', status: 'completed' })
        expect(world.task(task)?.start).to.deep.equal(zoned(HOURS[2] ?? '', ZONE))
        expect(world.event(eventId)).to.include({ summary: '✓ Survey gutters', transparency: 'transparent' })
        expect(world.eventOf(other)?.description).to.equal('A3, both sides')
      }),
    )
  })

  it('gives the swapped result when the sides of a symmetric rule are swapped', () => {
    const both = { made: { a: 'all', b: 'all' }, deleted: { a: 'deleted', b: 'deleted' } } as const
    const swapped = (s: Step): Step => ('side' in s ? { ...s, side: s.side % 2 ? 0 : 1 } : s)
    const run = (steps: Step[], flip: boolean): string[][] => {
      const services = { a: plainService('task'), b: plainService('task') }
      const other = flip ? ('b' as const) : ('a' as const)
      const world = new World({ ...both, fallback: other, firstWinner: other }, null, { services })
      for (const [i, s] of steps.entries()) act(world, flip ? swapped(s) : s, i)
      for (let round = 0; round < 6; round++) world.pass()
      const titles = (name: 'a' | 'b') =>
        [...world.services[name].items.values()].map(k => `${k.item.summary} ${k.item.status}`).sort()
      return flip ? [titles('b'), titles('a')] : [titles('a'), titles('b')]
    }
    const plainSteps = fc.array(
      step
        // What picks from all pairs or mirrors, or is said of one side, would be another when the sides are swapped.
        .filter(
          s =>
            ![
              'undo',
              'rule',
              'answer',
              'clash',
              'here',
              'lose',
              'torn',
              'cross',
              'return',
              'backup',
            ].includes(s.do) && !('side' in s && s.side > 1),
        )
        .map(s => (s.do === 'pass' ? { ...s, faults: [] } : s)),
      { maxLength: 14 },
    )
    fc.assert(
      fc.property(plainSteps, steps => {
        expect(run(steps, true)).to.deep.equal(run(steps, false))
      }),
      { numRuns: 300 },
    )
  })

  it('plans the same again on the same snapshot, and the pass does what the plan says', () => {
    const world = new World()
    world.addTask('Boiler valve', HOURS[0] ?? null)
    world.addEvent('Seed swap', HOURS[1] ?? '')
    world.observeAll()
    const preview = world.plan()
    expect(world.plan()).to.deep.equal(preview)
    world.record(world.rule, world.plan())
    expect(world.intents.map(i => i.by === 'rule' && i.write)).to.deep.equal(preview.flatMap(d => d.writes))
  })
})
