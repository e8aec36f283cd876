import { expect } from 'chai'
import { mustHold } from './model/oracle.ts'
import { plainService } from './model/service.ts'
import { RING } from './model/steps.ts'
import { type Name, World } from './model/world.ts'

/** Rules that meet: two lists and a calendar, each pair of them by a rule. */
describe('a ring of rules', () => {
  const WED = '2026-11-25T10:00:00'
  const THU = '2026-11-26T14:30:00'
  let w: World

  beforeEach(() => {
    const services = { a: plainService('task'), b: plainService('event'), c: plainService('task') }
    w = new World({}, null, { services, rules: RING })
  })
  const rest = (): void => {
    for (let i = 0; i < 9; i++) w.pass()
    expect(w.pass(), 'a further pass writes nothing').to.equal(0)
  }
  const settle = (): void => {
    rest()
    mustHold(w)
  }
  const titles = (name: Name): string[] =>
    [...w.services[name].items.values()].map(k => k.item.summary).sort()
  const idIn = (name: Name): string => [...w.services[name].items.keys()][0] ?? ''

  it('makes one of each, whichever list it begins in', () => {
    w.addTask('Star chart', WED)
    w.addTask('Moth trap', THU, 'c')
    settle()
    for (const name of ['a', 'b', 'c'] as const)
      expect(titles(name)).to.deep.equal(['Moth trap', 'Star chart'])
  })

  it('makes what was deleted in one place and edited in both others again once, and pairs all three', () => {
    // Of the three rules one rests: what it would tie is known only round the other two.
    w.pause(2)
    w.addTask('Star chart', WED)
    rest()
    w.now += 60_000
    w.services.a.delete('them', idIn('a'))
    w.edit('c', idIn('c'), { description: 'On linen' })
    w.edit('b', idIn('b'), { summary: 'Star charts' })
    rest()
    w.pause(2)
    settle()
    for (const name of ['a', 'b', 'c'] as const) {
      expect(titles(name), name).to.deep.equal(['Star charts'])
      expect([...w.services[name].items.values()][0]?.item.description).to.equal('On linen')
    }
    // What is edited from here on goes all the way round.
    w.now += 60_000
    w.edit('a', idIn('a'), { summary: 'Charts' })
    settle()
    for (const name of ['a', 'b', 'c'] as const) expect(titles(name)).to.deep.equal(['Charts'])
  })

  it('does not match an event with two tasks that other rules keep as two', () => {
    w.addTask('Label beds', '2026-11-26')
    settle()
    w.now += 60_000
    // While the lists are not kept in step, a task is new in one, and another in the other is given its name.
    w.pause(0)
    w.addTask('Check traps', THU)
    const [label] = [...w.services.c.items.values()]
    w.edit('c', label?.id ?? '', { summary: 'Check traps' })
    w.addEvent('Check traps', THU)
    w.pass()
    w.pause(0)
    settle()
    expect(titles('a')).to.deep.equal(['Check traps', 'Check traps'])
    expect(titles('b'), 'the one without an hour has no event').to.deep.equal(['Check traps'])
    expect(titles('c')).to.deep.equal(['Check traps', 'Check traps'])
  })
})
