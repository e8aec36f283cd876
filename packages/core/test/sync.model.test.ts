import { expect } from 'chai'
import fc from 'fast-check'
import { epochOf, type Event, splitMark, type Task, zoned } from '../src/index.ts'
import { type Bug, BUGS, type Fault, World, ZONE } from './model/world.ts'

/** Random histories on both sides with faults in between; afterwards SYNC.md §4 must hold. */

const HOURS = ['2026-11-25T10:00:00', '2026-11-26T14:30:00', '2026-11-27T09:15:00', '2026-12-01T16:00:00']

type Step =
  | { do: 'add-task' | 'add-event'; title: string; at: number }
  | {
      do: 'retitle' | 'move' | 'complete' | 'reopen' | 'delete' | 'no-hour'
      side: 'a' | 'b'
      pick: number
      at: number
      title: string
    }
  | { do: 'pass'; faults: Fault[] }

const title = fc.oneof(
  fc.constantFrom(
    'Boiler valve',
    '✓ odd one',
    '✓',
    ' spaces ',
    'A title that is longer than twenty characters',
  ),
  fc.string({ minLength: 1, maxLength: 30, unit: 'grapheme' }),
)
const at = fc.nat({ max: HOURS.length - 1 })
const step: fc.Arbitrary<Step> = fc.oneof(
  {
    weight: 2,
    arbitrary: fc.record({ do: fc.constantFrom('add-task' as const, 'add-event' as const), title, at }),
  },
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constantFrom('retitle', 'move', 'complete', 'reopen', 'delete', 'no-hour'),
      side: fc.constantFrom('a' as const, 'b' as const),
      pick: fc.nat({ max: 20 }),
      at,
      title,
    }),
  },
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('pass' as const),
      faults: fc.array(fc.constantFrom<Fault>('none', 'answer-lost', 'never-arrived', 'edited-after'), {
        maxLength: 6,
      }),
    }),
  },
) as fc.Arbitrary<Step>

const caught: number[] = []
const tally = { edits: 0, passes: 0, faults: 0, deletions: 0 }

function act(world: World, s: Step, stamp: number): void {
  if (s.do === 'pass') {
    tally.passes++
    let i = 0
    const fault = (): Fault => s.faults[i++] ?? 'none'
    tally.faults += s.faults.filter(f => f !== 'none').length
    world.pass(fault, (side, id) => world.edit(side, id, { summary: `after ${stamp}` }))
    return
  }
  if (!('side' in s)) {
    const local = HOURS[s.at] ?? ''
    if (s.do === 'add-task') world.addTask(s.title, local)
    else world.addEvent(s.title, local, 45)
    return
  }
  const service = world.service(s.side)
  const ids = [...service.items.keys()]
  const id = ids[s.pick % Math.max(1, ids.length)]
  const present = id === undefined ? undefined : service.items.get(id)?.item
  if (id === undefined || !present) return
  tally.edits++
  const anchor = zoned(HOURS[s.at] ?? '', s.pick % 3 === 0 ? 'Asia/Kathmandu' : ZONE)
  if (s.do === 'delete') {
    tally.deletions++
    service.items.delete(id)
  } else if (s.do === 'retitle') world.edit(s.side, id, { summary: s.title })
  else if (present.kind === 'task') {
    if (s.do === 'move') world.edit('a', id, { start: zoned(HOURS[s.at] ?? '', ZONE) })
    if (s.do === 'no-hour')
      world.edit('a', id, { start: s.pick % 2 ? null : { kind: 'date', date: '2026-11-26' } })
    if (s.do === 'complete') world.edit('a', id, { status: 'completed' })
    if (s.do === 'reopen') world.edit('a', id, { status: 'needs-action' })
  } else {
    const plain = splitMark(present.summary, '✓').title
    if (s.do === 'move') world.edit('b', id, { time: { anchor, minutes: 15 * (1 + s.at) } })
    if (s.do === 'no-hour')
      world.edit('b', id, { time: { anchor: { kind: 'date', date: '2026-11-27' }, minutes: 1440 } })
    if (s.do === 'complete') world.edit('b', id, { summary: `✓ ${plain}` })
    if (s.do === 'reopen') world.edit('b', id, { summary: plain })
  }
}

function mustAgree(task: Task, event: Event): void {
  const { marked, title: shown } = splitMark(event.summary, '✓')
  expect(marked, 'completion').to.equal(task.status === 'completed')
  const fitting = Array.from(shown.trim() || 'Untitled')
    .slice(0, 20)
    .join('')
    .trim()
  const same = fitting === task.summary || splitMark(task.summary, '✓').title === shown
  const cutTitle = Array.from(shown).length > 20
  expect(same || cutTitle, `"${task.summary}" and "${event.summary}"`).to.equal(true)
  const { anchor } = event.time
  if (task.start?.kind === 'zoned') expect(epochOf(task.start, ZONE)).to.equal(epochOf(anchor, ZONE))
  else expect(anchor).to.deep.equal(task.start)
}

/** One random history; throws where SYNC.md §4 does not hold at its end. */
function live(steps: Step[], fallback: 'a' | 'b', bug: Bug | null): void {
  const world = new World({ fallback }, bug)
  world.addTask('Water ledger', HOURS[0] ?? null)
  world.addTask('Label night beds', '2026-11-26')
  world.addEvent('Seed swap', HOURS[1] ?? '')
  world.pass()
  world.pass()
  steps.forEach((s, i) => {
    world.now += i % 3 === 0 ? 5000 : 500
    act(world, s, i)
  })
  for (let round = 0; round < 4; round++) world.pass()
  expect(world.pass(), 'a further pass writes nothing').to.equal(0)
  expect(world.intents, 'nothing waits').to.have.length(0)
  expect(world.lost, 'nothing was replaced that the journal does not name').to.deep.equal([])

  const ties = world.activeTies()
  for (const side of ['a', 'b'] as const) {
    const held = ties.map(t => t[side])
    expect(new Set(held).size, `one tie for one item on ${side}`).to.equal(held.length)
  }
  for (const tie of ties) {
    const task = world.task(tie.a?.slice(2) ?? '')
    const event = world.event(tie.b?.slice(2) ?? '')
    expect(task && event, `tie ${tie.id} holds two items`).to.not.equal(undefined)
    if (task && event) mustAgree(task, event)
  }
  // Nothing we made stands there without being somebody's counterpart.
  const known = new Set([...world.ties.values()].flatMap(t => [t.a?.slice(2), t.b?.slice(2)]))
  for (const id of world.made)
    if (world.task(id) ?? world.event(id)) expect(known.has(id), `${id} is a double`).to.equal(true)
}

const history = fc.array(step, { minLength: 3, maxLength: 25 })
const side = fc.constantFrom('a' as const, 'b' as const)

describe('two-way sync, by random histories', () => {
  after(() => console.log(`    model: ${JSON.stringify(tally)}`))

  it('settles, agrees, loses nothing and doubles nothing, whatever was edited and whatever failed', function () {
    this.timeout(120_000)
    fc.assert(
      fc.property(history, side, (steps, fallback) => live(steps, fallback, null)),
      { numRuns: Number(process.env.MODEL_RUNS ?? 3000) },
    )
  })

  for (const bug of BUGS)
    it(`would notice a server that ${bug}`, function () {
      this.timeout(60_000)
      const found = fc.check(
        fc.property(history, side, (steps, fallback) => live(steps, fallback, bug)),
        // Always the same histories: whether a bug is caught is not left to luck.
        { numRuns: 2000, endOnFailure: true, seed: 48 },
      )
      caught.push(found.numRuns)
      expect(found.failed, 'within 2,000 histories').to.equal(true)
    })
  after(() => console.log(`    planted bugs caught after ${caught.join(', ')} histories`))

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

  it('plans the same again on the same snapshot', () => {
    const world = new World()
    world.addTask('Boiler valve', HOURS[0] ?? null)
    world.addEvent('Seed swap', HOURS[1] ?? '')
    world.observeAll()
    expect(world.plan()).to.deep.equal(world.plan())
  })
})
