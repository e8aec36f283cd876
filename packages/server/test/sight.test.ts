import { expect } from 'chai'
import fc from 'fast-check'
import { type ClothItem, type Event, type ItemSource, slim } from '@loom/core'
import { Sharing, sharingFrom, Sight } from '../src/access/sight.ts'
import { clothOf, type Reading } from '../src/view/cloth.ts'
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
  VIEWER,
  wordsFor,
  wordsIn,
} from './support/random-team.ts'

/** What each is given of the Cloth, against an oracle that imports nothing of how the product decides. */

const TEAMS = Number(process.env.SIGHT_TEAMS ?? 2_000)

function readingOf(team: Team): Reading {
  const sources = new Map(team.items.map(i => [itemId(i.n), sourceOf(team, i)]))
  const series = [...sources.values()].flatMap(s =>
    s.item.kind === 'event' && s.item.recurring ? [[s, datesOf(s as ItemSource<Event>)] as const] : [],
  )
  const found = { ties: tieLines(team), sources, conflicts: new Set<string>(), read: sources }
  return { found, series, ids: [...sources.keys()], open: [] } as unknown as Reading
}

const sharingIn = (team: Team): Sharing =>
  sharingFrom(
    sharedRows(team),
    team.lists.flatMap(l => l.grants),
    team.members.flatMap(m => m.groups.map(g => ({ member_id: m.id, group_id: g }))),
    team.members.flatMap(m => m.standsFor.map(of => ({ member_id: memberId(of), deputy_id: m.id }))),
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

  const LEAKS: Record<string, Plant> = {
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
