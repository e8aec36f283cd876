import { expect } from 'chai'
import fc from 'fast-check'
import { plainService } from './model/service.ts'
import { HOURS } from './model/steps.ts'
import { bare } from './model/titles.ts'
import { type Fault, World, ZONE } from './model/world.ts'
import { zoned } from '../src/index.ts'

/** Two workspaces, each with a rule of its own between the same list and the same calendar, know nothing of each other. */

const EDITS = ['note', 'tick', 'move', 'delete'] as const
const FAULTS = ['none', 'none', 'answer-lost', 'never-arrived', 'crash', 'late-effect'] as const
type Step =
  | { do: 'pass'; who: number; faults: readonly Fault[] }
  | { do: 'task' | 'event'; at: number }
  | { do: (typeof EDITS)[number]; side: number; at: number; pick: number }
const step: fc.Arbitrary<Step> = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('pass' as const),
      who: fc.nat(1),
      faults: fc.array(fc.constantFrom(...FAULTS), { maxLength: 2 }),
    }),
  },
  fc.record({ do: fc.constantFrom('task' as const, 'event' as const), at: fc.nat(2) }),
  fc.record({ do: fc.constantFrom(...EDITS), side: fc.nat(1), at: fc.nat(2), pick: fc.nat(9) }),
)

function edit(world: World, s: Extract<Step, { side: number }>): void {
  const service = world.services[s.side ? 'b' : 'a']
  const all = [...service.items.values()]
  const kept = all[s.pick % Math.max(1, all.length)]
  if (!kept) return
  const anchor = zoned(HOURS[s.at] ?? '', ZONE)
  if (s.do === 'delete') service.delete('them', kept.id)
  else if (s.do === 'note') service.patch('them', kept.id, { description: `Note ${s.pick}` })
  else if (kept.item.kind === 'task')
    service.patch('them', kept.id, s.do === 'tick' ? { status: 'completed' } : { start: anchor })
  else
    service.patch(
      'them',
      kept.id,
      s.do === 'tick' ? { summary: `✓ ${bare(kept.item.summary)}` } : { time: { anchor, minutes: 45 } },
    )
}

function live(steps: readonly Step[], kinds: 'task-event' | 'task-task', salt = ''): World {
  const services = kinds === 'task-task' ? { b: plainService('task') } : {}
  const one = new World({}, null, { services, rules: [{ id: 'r', a: 'a', b: 'b' }] })
  const other = new World({}, null, { beside: one, salt, services, rules: [{ id: 's', a: 'a', b: 'b' }] })
  const pass = (world: World, faults: readonly Fault[] = []): number => {
    world.now = Math.max(one.now, other.now) + 1000
    let sent = 0
    const wrote = world.pass({ fault: () => faults[sent++] ?? 'none' })
    one.now = other.now = world.now
    return wrote
  }
  let made = 0
  for (const s of steps) {
    one.now = other.now = Math.max(one.now, other.now) + 500
    if (s.do === 'pass') pass(s.who ? other : one, s.faults)
    else if (s.do === 'task') one.addTask(`Work ${++made}`, HOURS[s.at] ?? null)
    else if ('side' in s) {
      // What one deletes before the other has ever seen it, the other may be making just then.
      if (s.do === 'delete') for (const world of [one, other, one]) pass(world)
      edit(one, s)
    } else if (kinds === 'task-event') one.addEvent(`Visit ${++made}`, HOURS[s.at] ?? '', 45, ZONE)
  }
  one.now = other.now = Math.max(one.now, other.now) + 60_000
  for (let round = 0; round < 5; round++) for (const world of [one, other]) pass(world)
  expect(pass(one) + pass(other), 'neither has anything more to write').to.equal(0)
  return one
}

function makesNothingTwice(steps: readonly Step[], kinds: 'task-event' | 'task-task', salt?: string): void {
  const { services } = live(steps, kinds, salt)
  for (const name of ['a', 'b'] as const) {
    const titles = [...services[name].items.values()].map(k => bare(k.item.summary)).sort()
    expect(new Set(titles).size, titles.join(', ')).to.equal(titles.length)
  }
}

describe('two workspaces on one list and one calendar', () => {
  for (const kinds of ['task-event', 'task-task'] as const) {
    const property = (salt?: string) =>
      fc.property(fc.array(step, { maxLength: 14 }), steps => makesNothingTwice(steps, kinds, salt))
    it(`make nothing twice (${kinds})`, () => {
      fc.assert(property(), {
        numRuns: Number(process.env.MODEL_RUNS ?? 400),
        seed: Number(process.env.MODEL_SEED ?? 11),
      })
    })
    it(`would be noticed to give uids of their own (${kinds})`, () => {
      expect(fc.check(property('other '), { numRuns: 400, seed: 11 }).failed).to.equal(true)
    })
  }
})
