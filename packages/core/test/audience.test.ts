import { expect } from 'chai'
import fc from 'fast-check'
import {
  type AgreedTo,
  type Channel,
  higher,
  type Level,
  LEVELS,
  type Looker,
  lower,
  reaches,
  unagreed,
  widenedBy,
} from '@loom/core'

/** Rules are a channel: who would see by them what they do not see without, and whose agreement that needs. */

type Said = Record<string, Partial<Record<string, Level>>>
/** What each sees of which list; of what is private no more than that it is there. */
const lookers = (said: Said): Looker[] =>
  Object.entries(said).map(([id, levels]) => ({
    id,
    at: list => {
      const open = levels[list] ?? 'nothing'
      return { open, classed: lower(open, 'busy') }
    },
  }))
const channel = (rule: string, source: string, target: string, more: Partial<Channel> = {}): Channel => ({
  rule,
  way: 'a-to-b',
  source: source.split(' '),
  target: target.split(' '),
  carried: 'everything',
  isClassed: false,
  ...more,
})

describe('who sees more by rules', () => {
  const widened = (said: Said, ...channels: Channel[]): string[] =>
    widenedBy(channels, lookers(said)).map(w => [w.rule, w.list, w.person, w.from, w.to].join(' '))

  it('is whoever sees more of the target than of the source, as far as the rule carries', () => {
    const said: Said = {
      ines: { beds: 'change' },
      tobias: { beds: 'busy', plan: 'title' },
      anouk: { plan: 'change' },
    }
    expect(widened(said, channel('r', 'beds', 'plan'))).to.deep.equal([
      'r beds tobias busy title',
      'r beds anouk nothing everything',
    ])
    expect(widened(said, channel('r', 'beds', 'plan', { carried: 'busy' }))).to.deep.equal([
      'r beds anouk nothing busy',
    ])
    expect(widened(said, channel('r', 'beds', 'plan', { isClassed: true }))).to.deep.equal([
      'r beds anouk nothing busy',
    ])
    expect(widened(said, channel('r', 'plan', 'beds'))).to.deep.equal(['r plan ines nothing everything'])
  })

  it('is for each list of a side by itself', () => {
    const said: Said = { tobias: { beds: 'title', tools: 'nothing', plan: 'title' } }
    expect(widened(said, channel('r', 'beds tools', 'plan'))).to.deep.equal(['r tools tobias nothing title'])
  })

  it('goes on by further rules, and not by the same one back to the other lists of its side', () => {
    const said: Said = { tobias: { far: 'title' }, anouk: { tools: 'everything' } }
    const [on, next] = [channel('r', 'beds tools', 'plan'), channel('s', 'plan', 'far')]
    expect(widened(said, on, next)).to.deep.equal([
      'r beds tobias nothing title',
      'r tools tobias nothing title',
      's plan tobias nothing title',
    ])
    const back = channel('r', 'plan', 'beds tools', { way: 'b-to-a' })
    expect(widened(said, on, back)).to.deep.equal(['r plan anouk nothing everything'])
    expect(
      widened(said, channel('r', 'beds', 'plan', { carried: 'busy' }), next)[0],
      'no more than the first carries',
    ).to.equal('r beds tobias nothing busy')
  })
})

/** A small team in which each does what they may, and asks for the rest. */
const LISTS = ['beds', 'tools', 'plan', 'far', 'wide']
const PEOPLE = ['ines', 'tobias', 'anouk']
const ownerOf = (list: string): string => PEOPLE[LISTS.indexOf(list) % PEOPLE.length] ?? ''
const level = fc.constantFrom(...LEVELS)
const list = fc.constantFrom(...LISTS)
const step = fc.oneof(
  fc.record({ do: fc.constant('grant' as const), list, to: fc.constantFrom(...PEOPLE), level }),
  fc.record({
    do: fc.constant('rule' as const),
    by: fc.constantFrom(...PEOPLE),
    id: fc.constantFrom('r', 's', 't'),
    a: fc.uniqueArray(list, { minLength: 1, maxLength: 2 }),
    b: fc.uniqueArray(list, { minLength: 1, maxLength: 2 }),
    carried: fc.tuple(level, level),
    isClassed: fc.boolean(),
  }),
  fc.record({ do: fc.constant('agree' as const), list, target: list, level }),
)
type Step = typeof step extends fc.Arbitrary<infer T> ? T : never

/** How much of what is in a list somebody sees by what carries it there: said by walking every way it can go. */
function seenBy(
  person: string,
  list: string,
  target: string,
  said: Said,
  channels: readonly Channel[],
): Level {
  let most: Level = 'nothing'
  const go = (c: Channel, cap: Level, isClassed: boolean, first: string, steps: number): void => {
    const [left, isPrivate] = [lower(cap, c.carried), isClassed || c.isClassed]
    for (const at of c.target) {
      const own = said[person]?.[at] ?? 'nothing'
      most = higher(most, lower(isPrivate ? lower(own, 'busy') : own, left))
      for (const on of channels)
        if (steps > 0 && on.source.includes(at) && on.rule !== c.rule && on.rule !== first)
          go(on, left, isPrivate, first, steps - 1)
    }
  }
  for (const c of channels)
    if (c.target[0] === target && c.source.includes(list)) go(c, 'everything', false, c.rule, LISTS.length)
  return most
}

type Widened = typeof widenedBy
/** Lives through it, and says what somebody came to see that its owner neither did nor agreed to. */
function leakIn(steps: readonly Step[], widen: Widened): string | null {
  let said: Said = Object.fromEntries(
    PEOPLE.map(p => [p, Object.fromEntries(LISTS.filter(l => ownerOf(l) === p).map(l => [l, 'change']))]),
  )
  let channels: Channel[] = []
  const consents = new Map<string, Level>()
  const agreed: AgreedTo = (l, target) => consents.get(`${l} ${target}`) ?? null
  /** What owners themselves have opened, by list, person and target. */
  const opened = new Map<string, Level>()
  const all = LISTS.flatMap(l => PEOPLE.flatMap(p => LISTS.map(t => [l, p, t] as const)))
  for (const s of steps) {
    if (s.do === 'agree') {
      const key = `${s.list} ${s.target}`
      consents.set(key, higher(consents.get(key) ?? 'nothing', lower(s.level, 'everything')))
      continue
    }
    const then: Said = structuredClone(said)
    let next = channels
    const actor = s.do === 'grant' ? ownerOf(s.list) : s.by
    if (s.do === 'grant') {
      if (s.to === actor) continue
      then[s.to] = { ...then[s.to], [s.list]: s.level }
    } else {
      if (s.a.some(l => s.b.includes(l))) continue
      const [there, back] = s.carried.map(l => lower(l, 'everything'))
      next = [
        ...channels.filter(c => c.rule !== s.id),
        channel(s.id, s.a.join(' '), s.b.join(' '), { carried: there, isClassed: s.isClassed }),
        channel(s.id, s.b.join(' '), s.a.join(' '), { carried: back, way: 'b-to-a' }),
      ]
    }
    const [before, after] = [widen(channels, lookers(said)), widen(next, lookers(then))]
    const asked = unagreed(before, after, agreed, s.do === 'rule' ? s.id : null)
    if (asked.some(w => ownerOf(w.list) !== actor)) continue
    said = then
    channels = next
    for (const [l, p, t] of all) {
      const now = seenBy(p, l, t, said, channels)
      const key = `${l} ${p} ${t}`
      const own = said[p]?.[l] ?? 'nothing'
      // What somebody saw of the list itself, and sees no more, its owner has closed there alone.
      if (ownerOf(l) === actor) opened.set(key, higher(opened.get(key) ?? 'nothing', now))
      const most = [own, opened.get(key) ?? 'nothing', agreed(l, t) ?? 'nothing'].reduce(higher)
      if (!reaches(most, now)) return `${p} sees ${now} of ${l} in ${t}: ${JSON.stringify(s)}`
    }
  }
  return null
}

describe('an act that opens what others own', () => {
  const lives = fc.array(step, { minLength: 4, maxLength: 25 })
  it('is done only where its owner did it, or agreed', () => {
    fc.assert(
      fc.property(lives, steps => {
        expect(leakIn(steps, widenedBy)).to.equal(null)
      }),
      { numRuns: 3000 },
    )
  })

  const planted: Record<string, Widened> = {
    'looks at each rule alone': (channels, all) => channels.flatMap(c => widenedBy([c], all)),
    'looks at the first list of a side': (channels, all) =>
      widenedBy(
        channels.map(c => ({ ...c, source: c.source.slice(0, 1) })),
        all,
      ),
    'forgets the way back': (channels, all) =>
      widenedBy(
        channels.filter(c => c.way === 'a-to-b'),
        all,
      ),
    'takes what is open for private': (channels, all) =>
      widenedBy(
        channels.map(c => ({ ...c, isClassed: true })),
        all,
      ),
  }
  for (const [name, bug] of Object.entries(planted))
    it(`is caught where it ${name}`, () => {
      const found = fc.check(
        fc.property(lives, steps => leakIn(steps, bug) === null),
        { numRuns: 3000 },
      )
      expect(found.failed).to.equal(true)
    })
})
