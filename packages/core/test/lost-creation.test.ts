import { expect } from 'chai'
import {
  givenUp,
  type Item,
  newTask,
  type RuleSettings,
  type Search,
  type Task,
  verdictOf,
  zoned,
} from '../src/index.ts'
import { plainService } from './model/service.ts'
import { World, ZONE } from './model/world.ts'

/** What a search for our marker says of a creation whose answer was lost. */
describe('looking for what a lost creation made', () => {
  interface Found {
    remoteId: string
    item: Task
  }
  const found = (remoteId: string, created: string | null): Found => ({
    remoteId,
    item: { ...newTask('mine@loom', { summary: 'Mine' }), created },
  })
  const closed = [{ name: 'Night crew' }]
  const judge = (search: Partial<Search<Found>>, triedAgoMs = 60_000) =>
    verdictOf({ found: [], unreadable: 0, closed: [], ...search }, triedAgoMs, 10_000)
  const early = '2026-11-25T10:00:00.000Z'
  const late = '2026-11-25T10:00:07.000Z'

  it('one that bears it was made', () => {
    for (const more of [{}, { closed }, { unreadable: 1 }])
      expect(judge({ found: [found('7', null)], ...more }, 0)).to.deep.equal({
        kind: 'made',
        item: found('7', null),
      })
  })
  it('of several, the first made is ours, in whatever order they are listed', () => {
    for (const all of [
      [found('7', early), found('8', late)],
      [found('8', late), found('7', early)],
    ])
      expect(judge({ found: all })).to.deep.equal({ kind: 'made', item: found('7', early) })
  })
  it('of several whose order nobody knows, somebody has to say', () => {
    for (const [one, other] of [
      [null, null],
      [early, early],
      [null, early],
    ] as const) {
      const verdict = judge({ found: [found('7', one), found('8', other)] })
      expect(verdict).to.deep.include({ kind: 'unsure', againMs: null })
      expect(verdict.kind === 'unsure' && verdict.reason).to.match(/^2 items there bear our mark/)
    }
  })
  it('none, where everything was looked at and enough time has gone by: it was not made', () => {
    expect(judge({})).to.deep.equal({ kind: 'not-made' })
  })
  it('none, a moment after it was sent: looked for again', () => {
    expect(judge({}, 4_000)).to.deep.include({ kind: 'unsure', againMs: 6_000 })
  })
  it('none, with a list that cannot be looked at: somebody has to say, and is told which', () => {
    const verdict = judge({ closed })
    expect(verdict).to.deep.include({ kind: 'unsure', againMs: null })
    expect(verdict.kind === 'unsure' && verdict.reason).to.contain('“Night crew” cannot be looked at')
  })
  it('something that bears it and cannot be read: somebody has to say', () => {
    expect(judge({ unreadable: 1 })).to.deep.include({ kind: 'unsure', againMs: null })
  })
})

/** Somebody had to decide without knowing, and left it alone. What comes to light later is nobody's new item. */
describe('a creation that was given up', () => {
  const both: Partial<RuleSettings> = { made: { a: 'all', b: 'all' } }
  const lists = { services: { a: plainService('task'), b: { ...plainService('task'), choosesIds: true } } }
  /** A task whose counterpart was given up, and what may have been made of it. */
  function givenUpOnce(): { w: World; task: string; made: Item } {
    const w = new World(both, null, lists)
    const task = w.addTask('Seal the gutter', '2026-11-25T10:00:00')
    w.observeAll()
    w.record(w.rule, w.plan())
    const [intent] = w.intents
    if (intent?.by !== 'rule' || intent.write.op !== 'create') throw new Error('nothing is being made')
    const { write } = intent
    w.intents = []
    const tie = w.ties.get(write.tieId)
    if (tie) w.ties.set(tie.id, { ...tie, ...givenUp(tie, write) })
    w.pass()
    expect(w.services.b.items.size, 'it is left alone').to.equal(0)
    return { w, task, made: write.item }
  }
  const titles = (w: World, name: 'a' | 'b'): string[] =>
    [...w.services[name].items.values()].map(k => k.item.summary)

  it('has its counterpart again, where that was made after all', () => {
    const { w, task, made } = givenUpOnce()
    w.services.b.put('us', 'n1', made)
    w.pass()
    w.edit('a', task, { summary: 'Seal both gutters' })
    w.pass()
    w.pass()
    expect([titles(w, 'a'), titles(w, 'b')]).to.deep.equal([['Seal both gutters'], ['Seal both gutters']])
  })

  it('leaves alone what was made after all, where there is another by now', () => {
    const { w, task, made } = givenUpOnce()
    w.edit('a', task, { start: zoned('2026-11-27T10:00:00', ZONE) })
    w.pass()
    w.pass()
    expect(titles(w, 'b'), 'with another date it is asked for again').to.have.length(1)
    w.services.b.put('us', 'n1', made)
    for (let i = 0; i < 3; i++) w.pass()
    expect([titles(w, 'a').length, titles(w, 'b').length]).to.deep.equal([1, 2])
  })
})
