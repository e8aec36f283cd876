import { expect } from 'chai'
import fc from 'fast-check'
import { type ClothItem, type Event, type ItemSource, slim } from '@loom/core'
import { Sharing, sharingFrom, Sight } from '../src/access/sight.ts'
import { clothOf, type Reading } from '../src/view/cloth.ts'
import { componentsOf } from '../src/view/components.ts'
import { GivenCloth } from '../src/view/given-cloth.ts'
import {
  busyMinutes,
  datesOf,
  itemId,
  mayKnow,
  memberId,
  MONDAY_MS,
  randomTeam,
  sharedRows,
  sourceOf,
  SPAN,
  type Team,
  tieLines,
  viewRows,
  VIEWER,
  wordsFor,
  wordsIn,
} from './support/random-team.ts'

/** What each is given of the Cloth, against an oracle that imports nothing of how the product decides. */

const TEAMS = Number(process.env.SIGHT_TEAMS ?? 2_000)

function readingOf(team: Team): Pick<Reading, 'components' | 'open'> {
  const sources = new Map(team.items.map(i => [itemId(i.n), sourceOf(team, i)]))
  const series = [...sources.values()].flatMap((s): [ItemSource<Event>, ClothItem[]][] =>
    s.item.kind === 'event' && s.item.recurring
      ? [[s as ItemSource<Event>, datesOf(s as ItemSource<Event>)]]
      : [],
  )
  const found = { ties: tieLines(team), sources, conflicts: new Set<string>(), read: sources }
  return { components: componentsOf(found, series, [...sources.keys()], new Map()), open: [] }
}

const sharingIn = (team: Team): Sharing =>
  sharingFrom(
    sharedRows(team),
    team.lists.flatMap(l => l.grants),
    team.members.flatMap(m => m.groups.map(g => ({ member_id: m.id, group_id: g }))),
    team.members.flatMap(m => m.standsFor.map(of => ({ member_id: memberId(of), deputy_id: m.id }))),
    { views: viewRows(team), today: MONDAY_MS },
  )

type Plant = (sight: Sight, team: Team, by: number) => Sight

/** What is wrong with what somebody is given, or null. */
function wrongWith(team: Team, plant: Plant = s => s): string | null {
  const reading = readingOf(team)
  const sharing = sharingIn(team)
  for (const [by, { id, role }] of team.members.entries()) {
    const sight = plant(sharing.sightOf({ id, role }), team, by)
    const items = clothOf(reading, sight, SPAN, VIEWER, () => 'UTC')
    const wrong =
      leaks(team, by, items) ?? missing(team, by, items) ?? acts(team, by, items) ?? busy(team, by, items)
    if (wrong) return `${id}: ${wrong}`
  }
  return null
}

function leaks(team: Team, by: number, items: ClothItem[]): string | null {
  const allowed = wordsFor(team, by)
  const found = wordsIn(JSON.stringify(items.map(slim))).filter(w => !allowed.has(w))
  return found.length > 0 ? `is told ${found.join(' ')}` : null
}

/** Everything that somebody may see is there, as itself or as what it is tied to. */
function missing(team: Team, by: number, items: ClothItem[]): string | null {
  const keys = new Set(items.map(i => i.key.split('@')[0]))
  const twins = team.items.flatMap(i => (i.twin === null ? [] : [i.n, i.twin]))
  const tied = new Set([...team.ties.flatMap(t => [t.a, t.b]), ...twins])
  for (const i of team.items) {
    if (tied.has(i.n) || (i.kind === 'event' && i.state === 'cancelled')) continue
    const known = mayKnow(team, by, i)
    if (['title', 'everything', 'change'].includes(known) && !keys.has(itemId(i.n)))
      return `is not told ${itemId(i.n)}`
  }
  return null
}

/** Nobody is offered to move or complete what they may not. */
function acts(team: Team, by: number, items: ClothItem[]): string | null {
  for (const item of items) {
    const known = team.items.find(i => itemId(i.n) === item.key.split('@')[0])
    if (!known) continue
    const level = mayKnow(team, by, known)
    if (item.movable && item.kind !== 'tied' && level !== 'change') return `may move ${item.key}`
    const isGiven = known.kind === 'task' && known.given.includes(by) && level === 'everything'
    const may = level === 'change' || (isGiven && team.members[by]?.role !== 'reader')
    if (item.completable && !may) return `may complete ${item.key}`
  }
  return null
}

function busy(team: Team, by: number, items: ClothItem[]): string | null {
  const told = new Map<string, Set<number>>()
  for (const { onlyBusy, place, people, key } of items) {
    if (!onlyBusy || place.kind !== 'timed') continue
    const person = people[0] ?? ''
    if (key !== `busy ${person} ${place.startMs}`) return `a key says more: ${key}`
    for (let ms = place.startMs; ms < place.endMs; ms += 900_000)
      told.set(person, (told.get(person) ?? new Set()).add((ms - MONDAY_MS) / 60_000))
  }
  const wanted = busyMinutes(team, by)
  for (const person of new Set([...told.keys(), ...wanted.keys()])) {
    const [one, other] = [told, wanted].map(m => [...(m.get(person) ?? [])].sort((x, y) => x - y).join())
    if (one !== other) return `of ${person || 'nobody'} busy at ${one} and not ${other}`
  }
  return null
}

describe('what each sees of a team', function () {
  this.timeout(120_000)

  it(`is what the design says, in ${TEAMS} random teams`, () => {
    fc.assert(
      fc.property(randomTeam, team => {
        expect(wrongWith(team)).to.equal(null)
      }),
      { numRuns: TEAMS },
    )
  })

  /** A sight that decides otherwise in one place. */
  const otherwise = (sight: Sight, change: Partial<Sight>): Sight =>
    Object.assign(Object.create(sight) as Sight, change)
  const raised =
    (from: string, to: ReturnType<Sight['levelOf']>): Plant =>
    sight =>
      levelled(sight, l => (l === from ? to : l))
  function levelled(
    sight: Sight,
    change: (l: ReturnType<Sight['levelOf']>) => ReturnType<Sight['levelOf']>,
  ): Sight {
    const levelOf: Sight['levelOf'] = source => change(sight.levelOf(source))
    return otherwise(sight, { isWhole: false, levelOf })
  }
  const within =
    (change: (team: Team) => Team): Plant =>
    (_, team, by) => {
      const { id, role } = team.members[by] ?? { id: '', role: 'reader' as const }
      return sharingIn(change(team)).sightOf({ id, role: change(team).members[by]?.role ?? role })
    }
  const onGrants = (
    change: (g: Team['lists'][number]['grants'], by: Team) => Team['lists'][number]['grants'],
  ): Plant =>
    within(team => ({ ...team, lists: team.lists.map(l => ({ ...l, grants: change(l.grants, team) })) }))

  const onViews = (change: (v: Team['views'][number]) => Team['views'][number]): Plant =>
    within(team => ({ ...team, views: team.views.map(change) }))

  const LEAKS: Record<string, Plant> = {
    'opens by a view what it does not show': onViews(v => ({ ...v, only: null })),
    'opens by a view lists that it leaves out': onViews(v => ({ ...v, hidden: [] })),
    'opens nothing by a view': onViews(v => ({ ...v, grants: [] })),
    'opens by a view more than was granted': onViews(v => ({
      ...v,
      grants: v.grants.map(g => ({ ...g, opens: g.opens && ('everything' as const) })),
    })),
    'takes a view that opens nothing to one person for no word': onViews(v => ({
      ...v,
      grants: v.grants.filter(g => g.opens !== null),
    })),
    'opens by a view what its giver may not show': within(team => ({
      ...team,
      lists: team.lists.map(l => ({ ...l, grants: l.grants.map(g => ({ ...g, pass_on: 1 })) })),
    })),
    'joins the same meeting before it is lowered': (sight, team) => {
      const isTwin = new Set(team.items.flatMap(i => (i.twin === null ? [] : [itemId(i.n)])))
      const seen = ((source: ItemSource<Event>) =>
        isTwin.has(source.id) ? source : sight.seen(source)) as unknown as Sight['seen']
      return otherwise(sight, { isWhole: false, seen })
    },
    'shows titles where only busy is granted': raised('busy', 'title'),
    'tells of busy time where nothing is granted': raised('nothing', 'busy'),
    'shows notes and place with the title': raised('title', 'everything'),
    'lets everybody change what they see whole': raised('everything', 'change'),
    'hides what is granted': raised('title', 'busy'),
    'leaves taken time out': raised('busy', 'nothing'),
    'takes a service’s private for open': within(team => ({
      ...team,
      lists: team.lists.map(l => ({ ...l, asBefore: true })),
    })),
    'closes what is private as before': within(team => ({
      ...team,
      lists: team.lists.map(l => ({ ...l, asBefore: false })),
    })),
    'takes everybody to be a coordinator': within(team => ({
      ...team,
      members: team.members.map(m => ({ ...m, role: 'coordinator' as const })),
    })),
    'lets readers change': within(team => ({
      ...team,
      members: team.members.map(m => (m.role === 'reader' ? { ...m, role: 'member' as const } : m)),
    })),
    'forgets who stands in for whom': within(team => ({
      ...team,
      members: team.members.map(m => ({ ...m, standsFor: [] })),
    })),
    'forgets who owns a list': within(team => ({
      ...team,
      lists: team.lists.map(l => ({ ...l, owner: null })),
    })),
    'takes the team’s for the first member’s': within(team => ({
      ...team,
      lists: team.lists.map(l => ({ ...l, owner: l.owner ?? 0 })),
    })),
    'puts everybody in every group': within(team => ({
      ...team,
      members: team.members.map(m => ({ ...m, groups: ['g0', 'g1'] })),
    })),
    'forgets groups': within(team => ({ ...team, members: team.members.map(m => ({ ...m, groups: [] })) })),
    'forgets what is granted to one person': onGrants(all => all.filter(g => g.to_kind !== 'person')),
    'takes an explicit nothing for no word': onGrants(all => all.filter(g => g.level !== 'nothing')),
    'forgets what is granted to everybody': onGrants(all => all.filter(g => g.to_kind !== 'everybody')),
    'counts everybody’s before a group’s': onGrants(all =>
      all.filter(g => g.to_kind !== 'group' || !all.some(o => o.to_kind === 'everybody')),
    ),
    'takes a person’s for everybody’s': onGrants(all =>
      all.map(g => (g.to_kind === 'person' ? { ...g, to_kind: 'everybody' as const, to_id: '' } : g)),
    ),
    'shows all as soon as all open things may be changed': sight =>
      otherwise(sight, { isWhole: sight.withAtLeast('change').length > 0 }),
    'joins a pair before it is lowered': (sight, team) => {
      const both = new Map(
        team.ties.flatMap(
          t =>
            [
              [itemId(t.a), t.b],
              [itemId(t.b), t.a],
            ] as const,
        ),
      )
      const seen = ((source: ItemSource<Event>) => {
        const other = team.items[both.get(source.id) ?? -1]
        const isOpen =
          other && ['title', 'everything', 'change'].includes(sight.levelOf(sourceOf(team, other)))
        return isOpen ? source : sight.seen(source)
      }) as unknown as Sight['seen']
      return otherwise(sight, { isWhole: false, seen })
    },
    'opens what is given to somebody else': (sight, team) => {
      const given = new Set(team.items.filter(i => i.given.length > 0).map(i => itemId(i.n)))
      const seen = ((source: ItemSource<Event>) =>
        given.has(source.id) ? source : sight.seen(source)) as unknown as Sight['seen']
      return otherwise(sight, { isWhole: false, seen })
    },
    'takes a mark of privacy for nothing': sight => {
      const seen = ((source: ItemSource<Event>) =>
        sight.seen(
          source.own?.private ? { ...source, own: { ...source.own, private: false } } : source,
        )) as unknown as Sight['seen']
      return otherwise(sight, {
        isWhole: false,
        seen,
        levelOf: s => sight.levelOf({ ...s, own: s.own && { ...s.own, private: false } }),
      })
    },
    'forgets whom a task is given to': sight => {
      const blind = <S extends ItemSource<never>>(s: S): S => ({ ...s, people: [] })
      return otherwise(sight, {
        isWhole: false,
        seen: (s => sight.seen(blind(s as never))) as Sight['seen'],
        levelOf: s => sight.levelOf(blind(s as never)),
      })
    },
    'lets whoever sees a task complete it': sight => {
      const seen = ((source: ItemSource<Event>) => {
        const found = sight.seen(source)
        return found?.level && found.level !== 'change' ? { ...found, completes: true } : found
      }) as unknown as Sight['seen']
      return otherwise(sight, { isWhole: false, seen })
    },
  }
  for (const [name, plant] of Object.entries(LEAKS))
    it(`finds a planted leak: ${name}`, () => {
      const teams = fc.sample(randomTeam, { numRuns: 1_500, seed: 11 })
      expect(teams.some(team => wrongWith(team, plant) !== null)).to.equal(true)
    })

  it('what goes on from an earlier reading is what is read as a whole, for each of them', () => {
    const change = fc.record({
      item: fc.nat({ max: 8 }),
      state: fc.constantFrom<'done' | 'open' | 'cancelled'>('done', 'open', 'cancelled'),
      at: fc.nat({ max: 90 }),
      marked: fc.boolean(),
      untie: fc.boolean(),
      drop: fc.boolean(),
    })
    fc.assert(
      fc.property(randomTeam, fc.array(change, { minLength: 1, maxLength: 6 }), (begin, changes) => {
        const sources = new Map<string, ReturnType<typeof sourceOf>>()
        const kept = (team: Team) =>
          new Map(
            team.items.map(i => {
              const name = JSON.stringify([i, team.lists[i.list]])
              const source = sources.get(name) ?? sourceOf(team, i)
              sources.set(name, source)
              return [itemId(i.n), source] as const
            }),
          )
        const dates = new Map<unknown, ClothItem[]>()
        let id = 0
        const read = (team: Team, before: Reading | null): Reading => {
          const found = {
            ties: tieLines(team),
            sources: kept(team),
            conflicts: new Set<string>(),
            read: new Map(),
          }
          const series = [...found.sources.values()].flatMap((s): [ItemSource<Event>, ClothItem[]][] => {
            if (s.item.kind !== 'event' || !s.item.recurring) return []
            const known = dates.get(s) ?? datesOf(s as ItemSource<Event>)
            dates.set(s, known)
            return [[s as ItemSource<Event>, known]]
          })
          const components = componentsOf(
            found,
            series,
            [...found.sources.keys()],
            before?.components ?? new Map(),
          )
          const changed = new Set(
            [...components.keys(), ...(before?.components.keys() ?? [])].filter(
              k => before?.components.get(k) !== components.get(k),
            ),
          )
          return {
            id: ++id,
            steps: before ? [...before.steps, { after: before.id, changed }] : [],
            components,
            open: [],
          } as unknown as Reading
        }
        const terms = { lineOf: (i: ClothItem) => JSON.stringify(slim(i)), zoneOf: () => 'UTC' }
        const given = begin.members.map(() => new GivenCloth())
        let team = begin
        let reading = read(team, null)
        const sharing = sharingIn(begin)
        const lines = (g: GivenCloth): string[] =>
          (JSON.parse(Buffer.from(g.versions.since(undefined).lines).toString('utf8')) as object[])
            .map(l => JSON.stringify(l))
            .sort()
        const follow = (): void => {
          for (const [n, member] of team.members.entries()) {
            const sight = sharing.sightOf(member)
            const before = given[n]?.versions.since(undefined).version
            const held = new Set(given[n] ? lines(given[n]) : [])
            given[n]?.follow(reading, sight, SPAN, VIEWER, terms)
            const whole = new GivenCloth()
            whole.follow({ ...reading, steps: [] }, sight, SPAN, VIEWER, terms)
            expect(lines(given[n] ?? whole)).to.deep.equal(lines(whole))
            // And whoever has the version before is given what leads from it to this one.
            const since = given[n]?.versions.since(before)
            if (!since?.gone) continue
            const got = (JSON.parse(Buffer.from(since.lines).toString('utf8')) as { key: string }[]).map(
              l => [l.key, JSON.stringify(l)] as const,
            )
            const after = new Map([...held].map(l => [(JSON.parse(l) as { key: string }).key, l]))
            for (const key of since.gone) after.delete(key)
            for (const [key, line] of got) after.set(key, line)
            expect([...after.values()].sort()).to.deep.equal(lines(whole))
          }
        }
        follow()
        const last = {
          item: 99,
          state: 'open' as const,
          at: 1,
          marked: false,
          untie: false,
          drop: false,
        }
        for (const c of [...changes, last]) {
          const items = team.items.flatMap(i =>
            i.n !== c.item
              ? [i]
              : c.drop
                ? []
                : [{ ...i, state: c.state, at: i.at === null ? null : c.at, marked: c.marked }],
          )
          const there = new Set(items.map(i => i.n))
          const ties = team.ties.filter((t, n) => there.has(t.a) && there.has(t.b) && !(c.untie && n === 0))
          team = { ...team, items, ties }
          reading = read(team, reading)
          // Not everybody asks after each change.
          if (c.at % 3 > 0) follow()
        }
      }),
      { numRuns: 400 },
    )
  })

  it('tells the same words for the same sight, and others for another', () => {
    fc.assert(
      fc.property(randomTeam, team => {
        const sharing = sharingIn(team)
        const texts = new Map<string, string>()
        const reading = readingOf(team)
        for (const { id, role } of team.members) {
          const sight = sharing.sightOf({ id, role })
          const told = JSON.stringify(clothOf(reading, sight, SPAN, VIEWER, () => 'UTC'))
          const known = texts.get(sight.text)
          if (known !== undefined) expect(told).to.equal(known)
          texts.set(sight.text, told)
        }
        expect(sharing.sightOf({ id: memberId(0), role: 'reader' })).to.be.instanceOf(Sight)
      }),
      { numRuns: 300 },
    )
  })
})
